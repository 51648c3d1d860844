import { SealedLine } from '@porch/client';
import type { Participant, ReportPart, WhyMissing } from '@porch/core';
import { encodeWords, readReportPart, systemReportChannel, type SystemReportMessage } from '@porch/wire';
import type { Lease } from '../consent/held.ts';
import { beginWith, type HostAbility, type Kit, type Running } from '../kit.ts';
import { PartMissing, type SystemPort } from '../ports/system-port.ts';
import { whyWithout } from '../ports/host-ports.ts';
import { timeLimit } from '../time-limit.ts';
import { UnderWay } from '../under-way.ts';

/** One at a time for each technician, and none sooner after another. */
const MOST_AT_ONCE = 1;
const LEAST_GAP_MS = 1_000;
/** A part that takes longer is said to be missing, and holds no other one back. */
const PART_MS = 60_000;

/** Reads what the computer says of itself for those who may, and tells the person here of each time. */
class SystemReportHere implements Running {
  readonly #kit: Kit;
  readonly #port: SystemPort;
  readonly #line: SealedLine<SystemReportMessage>;
  readonly #underWay: UnderWay;
  readonly #off: () => void;

  constructor(kit: Kit, port: SystemPort) {
    this.#kit = kit;
    this.#port = port;
    const line = new SealedLine(kit.connection, systemReportChannel);
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      permission: 'read-system-report',
      most: MOST_AT_ONCE,
      leastGapMs: LEAST_GAP_MS,
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, reportId, why) => line.send(seat, { type: 'refused', reportId, why }),
    });
    this.#off = line.listen(
      ({ from, message }) => this.#hear(from, message),
      (from) => from.side === 'desk' && !from.isGone && kit.held.holds('read-system-report', from.signKey),
    );
  }

  /** Whatever is read without leave any longer ends, with what was started for it. */
  changed(): void {
    this.#underWay.check();
  }

  close(): void {
    this.#off();
    this.#underWay.close();
  }

  #hear(from: Participant, { type, reportId }: SystemReportMessage): void {
    if (type === 'stop' && this.#underWay.heard(from, reportId)) this.#underWay.end(reportId);
    if (type === 'read') this.#begin(from, reportId);
  }

  #begin(from: Participant, reportId: string): void {
    const lease = this.#underWay.begin(from, reportId);
    if (!lease) return;
    // The person here hears of it as it begins.
    this.#kit.report((fact) => ({ type: 'system-report/tellRead', reportId, participantId: from.id, fact }));
    const tell = (message: SystemReportMessage) => this.#tell(from.seat, lease, message);
    this.#readAll(reportId, tell).catch((error: unknown) =>
      this.#kit.log.warn({ why: String(error) }, 'a system report broke off'),
    );
  }

  /** All at once: each part goes as soon as it is there. */
  async #readAll(reportId: string, tell: (message: SystemReportMessage) => void): Promise<void> {
    await Promise.all(this.#port.parts.map((part) => this.#readOne(reportId, part, tell)));
    tell({ type: 'done', reportId });
    this.#underWay.end(reportId);
  }

  async #readOne(reportId: string, part: ReportPart, tell: (message: SystemReportMessage) => void): Promise<void> {
    const limit = timeLimit(this.#kit.time, PART_MS, this.#underWay.signalOf(reportId));
    const { signal } = limit;
    try {
      const value = readReportPart(part, await this.#port.read(part, signal));
      tell(value ? { type: 'part', reportId, part, value } : { type: 'missing', reportId, part, why: 'failed' });
    } catch (error) {
      tell({ type: 'missing', reportId, part, why: this.#whyNot(part, error, signal) });
    } finally {
      limit.release();
    }
  }

  #whyNot(part: ReportPart, error: unknown, signal: AbortSignal): WhyMissing {
    if (error instanceof PartMissing) return error.why;
    if (signal.aborted) return 'took-too-long';
    this.#kit.log.warn({ part, why: String(error) }, 'a part of the system report could not be read');
    return 'failed';
  }

  /** Of one that was ended nothing more is said; what waits for its turn goes only while it is allowed. */
  #tell(seat: number, lease: Lease, message: SystemReportMessage): void {
    const may = () => lease.isRunning;
    if (this.#underWay.has(message.reportId) && may()) this.#line.sendPlain(seat, encodeWords(message), may);
  }
}

/** What the computer says of itself. */
export const systemReport: HostAbility = {
  name: 'system-report',
  whyNot: (_permission, ports) => whyWithout(ports, 'system'),
  warn: ({ words, firstName }) => words.systemReport.whatIsRead({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.system, (port) => new SystemReportHere(kit, port)),
};
