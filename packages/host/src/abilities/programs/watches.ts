import type { SealedLine } from '@porch/client';
import { isNamedIn, MAX_PROGRAM_ROWS, type Participant, type ProgramList, type ProgramRow } from '@porch/core';
import { encodeJson, encodeWords, type ProgramsMessage } from '@porch/wire';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';
import { PartMissing } from '../../ports/system-port.ts';
import type { ProgramReading, ProgramsPort } from '../../ports/programs-port.ts';
import { timeLimit } from '../../time-limit.ts';
import { UnderWay } from '../../under-way.ts';
import { inMessages, RowDifferences } from './row-differences.ts';

/** Every list at once, and one that is chosen anew while the one before ends. */
const MOST_AT_ONCE = 8;
const READ_MS = 30_000;
const LEAST_MESSAGE_CHARS = 4 * 1024;

/** How long after a reading the next one begins, at the soonest. */
const PAUSE_MS: { readonly [L in ProgramList]: number } = {
  processes: 2_000,
  services: 3_000,
  entries: 2_000,
  ports: 4_000,
  installed: 30_000,
  jobs: 15_000,
};
/** And so many times as long as the reading took: whoever looks takes no more than a fortieth of a core for it. */
const PAUSE_TIMES = 40;
/** But nobody looks at what is older than this. */
const LONGEST_PAUSE_MS = 30_000;

interface Watch {
  readonly list: ProgramList;
  readonly seat: number;
  readonly lease: Lease;
  readonly reading: ProgramReading;
  readonly differences: RowDifferences;
  turn: number;
  /** When the next one may be read. */
  dueAtMs: number;
  /** The turn before was taken, and the next one is not being read yet. */
  isWanted: boolean;
  endWaiting: () => void;
}

/** Lists that technicians look at: read while they take what comes, and only what is other than before is sent. */
export class ProgramWatches {
  readonly #kit: Kit;
  readonly #port: ProgramsPort;
  readonly #line: SealedLine<ProgramsMessage>;
  readonly #underWay: UnderWay;
  readonly #watches = new Map<string, Watch>();
  /** The person here hears of each list once, for each technician. */
  readonly #told = new Set<string>();

  constructor(kit: Kit, port: ProgramsPort, line: SealedLine<ProgramsMessage>) {
    this.#kit = kit;
    this.#port = port;
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      permission: 'inspect-programs',
      most: MOST_AT_ONCE,
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, id, why) => line.send(seat, { type: 'refused', id, why }),
      onEnd: (watchId) => this.#end(watchId),
    });
  }

  begin(from: Participant, { watchId, list }: { watchId: string; list: ProgramList }): void {
    const lease = this.#underWay.begin(from, watchId);
    if (!lease) return;
    const watch: Watch = {
      ...{ list, seat: from.seat, lease, reading: this.#port.open(list), differences: new RowDifferences() },
      ...{ turn: 0, dueAtMs: 0, isWanted: true, endWaiting: () => undefined },
    };
    this.#watches.set(watchId, watch);
    const told = `${from.id} ${list}`;
    if (!this.#told.has(told)) {
      this.#told.add(told);
      this.#kit.report((fact) => ({ type: 'programs/tellLooked', list, participantId: from.id, fact }));
    }
    this.#readWhenDue(watchId, watch);
  }

  goOn(from: Participant, { watchId, turn }: { watchId: string; turn: number }): void {
    const watch = this.#watches.get(watchId);
    // Whoever asks for what ended here, while nothing came through, begins anew.
    if (!watch) return this.#underWay.refuse(from.seat, watchId, 'it is not watched any longer');
    if (watch.seat !== from.seat) return;
    this.#underWay.heard(from, watchId);
    if (turn !== watch.turn || watch.isWanted) return;
    watch.isWanted = true;
    this.#readWhenDue(watchId, watch);
  }

  stop(from: Participant, watchId: string): void {
    if (this.#watches.get(watchId)?.seat === from.seat) this.#underWay.end(watchId);
  }

  /** Something was done to this list: it is read as soon as whoever looks wants more. */
  hurry(list: ProgramList): void {
    for (const [watchId, watch] of this.#watches)
      if (watch.list === list) {
        watch.dueAtMs = 0;
        if (watch.isWanted) this.#readWhenDue(watchId, watch);
      }
  }

  /** What is watched without leave any longer ends; what rested goes on. */
  check(): void {
    this.#underWay.check();
    for (const [watchId, watch] of this.#watches) if (watch.isWanted) this.#readWhenDue(watchId, watch);
  }
  close(): void {
    this.#underWay.close();
  }

  #end(watchId: string): void {
    const watch = this.#watches.get(watchId);
    if (!watch) return;
    this.#watches.delete(watchId);
    watch.endWaiting();
  }

  #readWhenDue(watchId: string, watch: Watch): void {
    watch.endWaiting();
    // While it rests nothing waits: whoever ends the rest says so.
    if (!watch.lease.isRunning) return;
    const inMs = watch.dueAtMs - this.#kit.time.nowMs();
    if (inMs > 0) {
      watch.endWaiting = this.#kit.time.after(inMs, () => this.#readWhenDue(watchId, watch));
      return;
    }
    watch.isWanted = false;
    this.#read(watchId, watch).catch((error: unknown) =>
      this.#kit.log.warn({ list: watch.list, why: String(error) }, 'a list of programs broke off'),
    );
  }

  async #read(watchId: string, watch: Watch): Promise<void> {
    const { time } = this.#kit;
    const begunAtMs = time.nowMs();
    const limit = timeLimit(time, READ_MS, this.#underWay.signalOf(watchId));
    const { signal } = limit;
    try {
      const rows = await watch.reading.read(signal);
      // Whatever ended while it was read is not sent.
      if (this.#watches.get(watchId) !== watch) return;
      this.#send(watchId, watch, this.#marked(watch.list, rows), rows.length);
    } catch (error) {
      if (this.#watches.get(watchId) !== watch) return;
      this.#tell(watch, { type: 'missing', watchId, why: this.#whyNot(watch, error, signal) });
      this.#underWay.end(watchId);
    } finally {
      limit.release();
      watch.dueAtMs = time.nowMs() + this.#pauseMs(watch, time.nowMs() - begunAtMs);
    }
  }

  #pauseMs({ list, reading }: Watch, tookMs: number): number {
    if (reading.isHalf) return 0;
    return Math.max(PAUSE_MS[list], Math.min(LONGEST_PAUSE_MS, tookMs * PAUSE_TIMES));
  }

  #whyNot({ list }: Watch, error: unknown, signal: AbortSignal) {
    if (error instanceof PartMissing) return error.why;
    if (signal.aborted) return 'took-too-long';
    this.#kit.log.warn({ list, why: String(error) }, 'a list of programs could not be read');
    return 'failed';
  }

  /** What the desk rules is never touched says so. */
  #marked(list: ProgramList, rows: readonly ProgramRow[]): readonly ProgramRow[] {
    const { untouchedPrograms } = this.#kit.desk;
    const sent = rows.slice(0, MAX_PROGRAM_ROWS);
    if (!untouchedPrograms.length || (list !== 'processes' && list !== 'services')) return sent;
    return sent.map((row) =>
      'name' in row && isNamedIn(untouchedPrograms, row.name) ? ({ ...row, guard: 'policy' } as ProgramRow) : row,
    );
  }

  #send(watchId: string, watch: Watch, rows: readonly ProgramRow[], count: number): void {
    const { rows: changed, gone } = watch.differences.next(rows);
    const mostChars = Math.max(LEAST_MESSAGE_CHARS, this.#line.messageBytes ?? Infinity);
    for (const ids of inMessages(gone, mostChars)) this.#tell(watch, { type: 'gone', watchId, ids });
    for (const texts of inMessages(changed, mostChars)) this.#tellRows(watch, watchId, texts);
    watch.turn++;
    const isHalf = watch.reading.isHalf ? ({ isHalf: true } as const) : {};
    this.#tell(watch, { type: 'turn', watchId, turn: watch.turn, count, ...isHalf });
  }

  /** Rows are JSON already: many of them are not written twice. */
  #tellRows(watch: Watch, watchId: string, texts: readonly string[]): void {
    this.#sendPlain(watch, encodeJson(`{"type":"rows","watchId":"${watchId}","rows":[${texts.join(',')}]}`));
  }
  #tell(watch: Watch, message: ProgramsMessage): void {
    this.#sendPlain(watch, encodeWords(message));
  }
  /** What waits for its turn goes only while it is allowed. */
  #sendPlain(watch: Watch, plain: Uint8Array): void {
    const may = () => watch.lease.isRunning;
    if (may()) this.#line.sendPlain(watch.seat, plain, may);
  }
}
