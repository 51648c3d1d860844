import { SealedLine } from '@porch/client';
import type { Participant, ReportPart, WhyMissing } from '@porch/core';
import { encodeWords, readReportPart, systemReportChannel, type SystemReportMessage } from '@porch/wire';
import type { Lease } from '../consent/held.ts';
import { beginWith, type HostAbility, type Kit, type Running } from '../kit.ts';
import { PartMissing, type SystemPort } from '../ports/system-port.ts';
import { whyWithout } from '../ports/host-ports.ts';

/** Whoever asks again sooner is answered by what is on its way. */
const LEAST_GAP_MS = 1_000;
/** A part that takes longer is said to be missing, and holds no other one back. */
const PART_MS = 60_000;

/** One report being read for one technician. */
interface Reading {
  readonly reportId: string;
  readonly seat: number;
  readonly lease: Lease;
  /** Of each part that is being read. */
  readonly ends: Set<() => void>;
  isEnded: boolean;
}

/** Reads what the computer says of itself for those who may, and tells the person here of each time. */
class SystemReportHere implements Running {
  readonly #kit: Kit;
  readonly #port: SystemPort;
  readonly #line: SealedLine<SystemReportMessage>;
  readonly #off: () => void;
  /** At most one for each technician. */
  readonly #readings = new Map<number, Reading>();
  #begunAtMs = -Infinity;

  constructor(kit: Kit, port: SystemPort) {
    this.#kit = kit;
    this.#port = port;
    this.#line = new SealedLine(kit.connection, systemReportChannel);
    this.#off = this.#line.listen(
      ({ from, message }) => this.#hear(from, message),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('read-system-report', from.signKey),
    );
  }

  /** Whatever is read without leave any longer ends, with what was started for it. */
  changed(): void {
    for (const { seat, lease } of this.#readings.values()) if (lease.state.name === 'over') this.#end(seat);
  }

  close(): void {
    this.#off();
    for (const seat of [...this.#readings.keys()]) this.#end(seat);
  }

  #end(seat: number): void {
    const reading = this.#readings.get(seat);
    if (!reading) return;
    this.#readings.delete(seat);
    reading.isEnded = true;
    for (const end of reading.ends) end();
  }

  #hear(from: Participant, message: SystemReportMessage): void {
    if (message.type === 'stop' && this.#readings.get(from.seat)?.reportId === message.reportId) this.#end(from.seat);
    if (message.type === 'read') this.#begin(from, message.reportId);
  }

  #begin(from: Participant, reportId: string): void {
    const refuse = (why: string) => this.#line.send(from.seat, { type: 'refused', reportId, why });
    const nowMs = this.#kit.time.nowMs();
    const lease = this.#kit.held.during('read-system-report', from.signKey);
    if (lease.state.name === 'paused') refuse(lease.state.why);
    else if (!lease.isRunning) refuse('the customer has not allowed it');
    else if (this.#readings.has(from.seat) || nowMs - this.#begunAtMs < LEAST_GAP_MS)
      refuse('too many are on their way');
    else {
      this.#begunAtMs = nowMs;
      const reading: Reading = { reportId, seat: from.seat, lease, ends: new Set(), isEnded: false };
      this.#readings.set(from.seat, reading);
      // The person here hears of it as it begins.
      this.#kit.report((fact) => ({ type: 'system-report/tellRead', reportId, participantId: from.id, fact }));
      this.#readAll(reading).catch((error: unknown) =>
        this.#kit.log.warn({ why: String(error) }, 'a system report broke off'),
      );
    }
  }

  /** All at once: each part goes as soon as it is there. */
  async #readAll(reading: Reading): Promise<void> {
    await Promise.all(this.#port.parts.map((part) => this.#readOne(reading, part)));
    this.#tell(reading, { type: 'done', reportId: reading.reportId });
    if (this.#readings.get(reading.seat) === reading) this.#readings.delete(reading.seat);
  }

  async #readOne(reading: Reading, part: ReportPart): Promise<void> {
    const { reportId, ends } = reading;
    const own = new AbortController();
    const end = () => own.abort();
    ends.add(end);
    const stopWaiting = this.#kit.time.after(PART_MS, end);
    try {
      const value = readReportPart(part, await this.#port.read(part, own.signal));
      if (value) this.#tell(reading, { type: 'part', reportId, part, value });
      else this.#tell(reading, { type: 'missing', reportId, part, why: 'failed' });
    } catch (error) {
      this.#tell(reading, { type: 'missing', reportId, part, why: this.#whyNot(part, error, own.signal) });
    } finally {
      stopWaiting();
      ends.delete(end);
    }
  }

  #whyNot(part: ReportPart, error: unknown, signal: AbortSignal): WhyMissing {
    if (error instanceof PartMissing) return error.why;
    if (signal.aborted) return 'took-too-long';
    this.#kit.log.warn({ part, why: String(error) }, 'a part of the system report could not be read');
    return 'failed';
  }

  #tell(reading: Reading, message: SystemReportMessage): void {
    const { seat, lease } = reading;
    const may = () => lease.isRunning && !reading.isEnded;
    if (may()) this.#line.sendPlain(seat, encodeWords(message), may);
  }
}

/** What the computer says of itself. */
export const systemReport: HostAbility = {
  name: 'system-report',
  whyNot: (_permission, ports) => whyWithout(ports, 'system'),
  warn: ({ words, firstName }) => words.systemReport.whatIsRead({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.system, (port) => new SystemReportHere(kit, port)),
};
