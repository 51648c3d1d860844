import type { SealedLine } from '@porch/client';
import {
  readActionText,
  secretsIn,
  valuesFor,
  type Participant,
  type RunbookAction,
  type RunbookValues,
  type RunOutcome,
} from '@porch/core';
import { encodeWords, hashOfText, type RunbookMessage } from '@porch/wire';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';
import { RunRefused, type RunbookPort } from '../../ports/runbook-port.ts';
import { timeLimit } from '../../time-limit.ts';
import { UnderWay } from '../../under-way.ts';
import { carryOut, howDone } from './carry-out.ts';
import { Printed } from './printed.ts';
import { givenInWords, hasAll, isCareful, isRaised, touchesOf, whyNeverRun, whyNotNow } from './run-rules.ts';

const MOST_AT_ONCE = 4;
/** The longest run, and a while to read what it printed. */
const STALE_MS = 5_400_000;
/** The ledger may come a moment after the message. */
const CHOSEN_MS = 5_000;
const SAY_EVERY_MS = 2_000;
const NOT_APPROVED = 'it is not what the desk approved';

interface Ended {
  readonly outcome: RunOutcome;
  readonly code: number | undefined;
  readonly mayGoOn: boolean;
}
interface Run {
  readonly from: Participant;
  readonly lease: Lease;
  readonly text: string;
  readonly given: RunbookValues;
  /** The technician's, where the action needs administrator rights. */
  readonly signature: string | undefined;
  readonly stops: AbortController;
  endWaiting(): void;
  /** Once it was looked at. */
  looked?: { readonly action: RunbookAction; readonly values: RunbookValues; readonly printed: Printed };
  stage: 'waits' | 'looking' | 'looked' | 'runs' | 'over';
  /** From where on somebody waits for what it prints. */
  wanted?: number;
  ended?: Ended;
}

/** Actions of the runbook at this computer: what the ledger says was chosen, and nothing else, is run here. */
export class RunbookRuns {
  readonly #kit: Kit;
  readonly #port: RunbookPort;
  readonly #line: SealedLine<RunbookMessage>;
  readonly #underWay: UnderWay;
  readonly #runs = new Map<string, Run>();
  /** What was begun here: the ledger says so a moment later. */
  readonly #begun = new Set<string>();
  /** What runs, so that the end comes after it. */
  readonly #working = new Set<Promise<void>>();

  constructor(kit: Kit, port: RunbookPort, line: SealedLine<RunbookMessage>) {
    this.#kit = kit;
    this.#port = port;
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      ...{ permission: 'run-runbook', most: MOST_AT_ONCE, staleMs: STALE_MS },
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, id, why) => line.send(seat, { type: 'refused', id, why }),
      onEnd: (runId) => this.#forget(runId),
    });
  }

  /** What runs just now, for whom, if anything does. */
  get now(): { readonly who: string; readonly title: string } | undefined {
    const run = [...this.#runs.values()].find(({ stage }) => stage === 'runs');
    const { technician } = this.#kit.words.kernel;
    return run?.looked && { who: run.from.name ?? technician, title: run.looked.action.title };
  }

  look(from: Participant, { runId, text, values, signature }: Omit<RunbookMessage & { type: 'look' }, 'type'>): void {
    this.#makeRoom(from);
    const lease = this.#underWay.begin(from, runId);
    if (!lease) return;
    const late = () => this.#underWay.refuse(from.seat, runId, NOT_APPROVED);
    const endWaiting = this.#kit.time.after(CHOSEN_MS, late);
    const stops = new AbortController();
    this.#runs.set(runId, { from, lease, text, given: values, signature, stops, endWaiting, stage: 'waits' });
    this.#lookOnceChosen(runId);
  }

  run(from: Participant, runId: string): void {
    const run = this.#runs.get(runId);
    if (!run) return this.#underWay.refuse(from.seat, runId, 'it was looked at too long ago');
    if (run.stage !== 'looked' || !run.looked || !this.#underWay.heard(from, runId)) return;
    const { action, values } = run.looked;
    const whyNot = this.#begun.has(runId) ? 'it was run already' : whyNotNow(this.#kit, { runId, from, action });
    if (whyNot !== undefined) return this.#underWay.refuse(from.seat, runId, whyNot);
    run.stage = 'runs';
    this.#begun.add(runId);
    const given = givenInWords(action, values);
    // The person here hears of it as it begins.
    this.#kit.report((fact) => ({ type: 'runbook/tellBegun', runId, participantId: from.id, given, fact }));
    const done = this.#carryOut(runId, run, run.looked)
      .catch((error: unknown) =>
        this.#kit.log.error({ why: String(error) }, 'what became of an action could not be told'),
      )
      .finally(() => {
        this.#working.delete(done);
        this.#kit.changed();
      });
    this.#working.add(done);
    // Stop is in sight as long as it runs, whether or not somebody looks.
    this.#kit.changed();
  }

  /** By hand. */
  stop(from: Participant, runId: string): void {
    if (this.#underWay.heard(from, runId)) this.#runs.get(runId)?.stops.abort();
  }
  drop(from: Participant, runId: string): void {
    if (this.#runs.get(runId)?.from.seat === from.seat) this.#underWay.end(runId);
  }
  more(from: Participant, runId: string, wanted: number): void {
    const run = this.#runs.get(runId);
    if (!run || !this.#underWay.heard(from, runId)) return;
    run.wanted = wanted;
    this.#flush(runId, run);
  }

  /** What is chosen, allowed and paused may be other than before. */
  check(): void {
    this.#underWay.check();
    for (const [runId, run] of this.#runs) {
      if (run.stage === 'waits') this.#lookOnceChosen(runId);
      else if (run.stage === 'runs' && run.looked && !hasAll(this.#kit, run.from, run.looked.action))
        this.#underWay.end(runId);
      else this.#flush(runId, run);
    }
  }
  async close(): Promise<void> {
    this.#underWay.close();
    await Promise.all(this.#working);
  }

  /** What is over and was not asked for any longer makes room. */
  #makeRoom(from: Participant): void {
    const theirs = [...this.#runs].filter(([, run]) => run.from.seat === from.seat);
    const over = theirs.find(([, run]) => run.stage === 'over');
    if (theirs.length >= MOST_AT_ONCE && over) this.#underWay.end(over[0]);
  }
  #forget(runId: string): void {
    this.#runs.get(runId)?.endWaiting();
    this.#runs.delete(runId);
  }

  #lookOnceChosen(runId: string): void {
    const run = this.#runs.get(runId);
    const chosen = this.#kit.connection.state.slices.runbook[runId];
    if (run?.stage !== 'waits' || !chosen) return;
    run.endWaiting();
    run.stage = 'looking';
    const { from, text, given } = run;
    const action = readActionText(text);
    const isThis = chosen.hash === hashOfText(text) && chosen.byId === from.id && chosen.kind !== 'instruction';
    if (!isThis || !action) return this.#underWay.refuse(from.seat, runId, NOT_APPROVED);
    const whyNever = whyNeverRun(this.#kit, this.#port.platform, { runId, from, action, given });
    if (whyNever !== undefined) return this.#underWay.refuse(from.seat, runId, whyNever);
    const values = valuesFor(action, given);
    this.#findOut(runId, run, action, values).catch((error: unknown) => {
      if (!(error instanceof RunRefused))
        this.#kit.log.warn({ why: String(error) }, 'how an action would be run could not be found out');
      const why = error instanceof RunRefused ? error.message : 'it could not be looked at';
      if (this.#runs.get(runId) === run) this.#underWay.refuse(from.seat, runId, why);
    });
  }

  async #findOut(runId: string, run: Run, action: RunbookAction, values: RunbookValues): Promise<void> {
    const found = await howDone(this.#port, { runId, action, values });
    if (this.#runs.get(runId) !== run) return;
    run.looked = { action, values, printed: new Printed(secretsIn(action, values)) };
    run.stage = 'looked';
    const maySave = this.#kit.held.holds('make-safe-points', run.from.signKey);
    this.#tell(run, {
      ...{ type: 'looked', runId, ...found },
      ...(maySave && touchesOf(action) ? { isSaved: true } : {}),
      ...(isCareful(this.#kit, action) ? { isCareful: true } : {}),
    });
  }

  async #carryOut(runId: string, run: Run, { action, values, printed }: NonNullable<Run['looked']>): Promise<void> {
    const { time, log } = this.#kit;
    const limit = timeLimit(time, action.limitSeconds * 1_000, this.#underWay.signalOf(runId));
    const signal = AbortSignal.any([limit.signal, run.stops.signal]);
    const endSaying = this.#sayNowAndThen(runId, run, printed);
    let ended: Ended;
    try {
      await this.#saveBefore(run, action);
      const may = () => run.lease.isRunning && !signal.aborted;
      const print = (text: string) => {
        printed.print(text);
        this.#flush(runId, run);
      };
      const { code, mayGoOn } = await carryOut(
        this.#kit,
        this.#port,
        { ...run, runId, action, values },
        { may, print, signal },
      );
      const isBroken = code === undefined && isRaised(action);
      ended = { outcome: code === 0 ? 'done' : isBroken ? 'broken-off' : 'failed', code, mayGoOn };
    } catch (error) {
      if (!signal.aborted) log.warn({ why: String(error) }, 'an action failed');
      ended = { outcome: 'failed', code: undefined, mayGoOn: false };
    } finally {
      limit.release();
      endSaying();
    }
    if (signal.aborted)
      ended = {
        ...ended,
        outcome: limit.isLate ? 'took-too-long' : run.stops.signal.aborted ? 'stopped' : 'broken-off',
      };
    printed.finish();
    // Nothing more leaves, also of what was printed before, once it is not allowed any longer.
    if (run.lease.isRunning) this.#say(runId, printed, true);
    this.#end(runId, run, printed, ended);
  }

  #end(runId: string, run: Run, { unsaid }: Printed, ended: Ended): void {
    const { outcome, code, mayGoOn } = ended;
    this.#kit.report((fact) => ({
      ...{ type: 'runbook/tellEnded', runId, outcome, code, unsaid, fact },
      mayGoOn: mayGoOn || undefined,
    }));
    run.stage = 'over';
    run.ended = ended;
    this.#flush(runId, run);
    this.#tellEnd(runId, run);
  }

  /** What it touches, where this technician may have that saved. Nothing is run when that failed. */
  async #saveBefore({ from }: Run, action: RunbookAction): Promise<void> {
    const touches = touchesOf(action);
    if (touches)
      await this.#kit.shared.makeSafePoint(from, this.#kit.words.runbook.before({ title: action.title }), touches);
  }

  #sayNowAndThen(runId: string, run: Run, printed: Printed): () => void {
    let end = () => undefined as void;
    const say = () => {
      if (run.lease.isRunning) this.#say(runId, printed);
      end = this.#kit.time.after(SAY_EVERY_MS, say);
    };
    end = this.#kit.time.after(SAY_EVERY_MS, say);
    return () => end();
  }
  #say(runId: string, printed: Printed, isLast = false): void {
    const text = printed.say(isLast);
    if (text !== undefined) this.#kit.report((fact) => ({ type: 'runbook/tellSaid', runId, text, fact }));
  }

  /** What somebody waits for, once there is something. */
  #flush(runId: string, run: Run): void {
    const { wanted, looked } = run;
    if (wanted === undefined || !looked || !run.lease.isRunning) return;
    const text = looked.printed.piece(wanted);
    if (text !== undefined) {
      delete run.wanted;
      this.#tell(run, { type: 'output', runId, from: wanted, text });
    } else if (run.stage === 'over') {
      delete run.wanted;
      this.#tellEnd(runId, run);
    }
  }
  #tellEnd(runId: string, run: Run): void {
    if (!run.ended || !run.looked) return;
    const { outcome, code, mayGoOn } = run.ended;
    const { total, kept } = run.looked.printed;
    this.#tell(run, {
      ...{ type: 'ended', runId, outcome, code, printed: total, kept },
      ...(mayGoOn ? { mayGoOn: true } : {}),
    });
  }
  #tell({ from, lease }: Run, message: RunbookMessage): void {
    const may = () => lease.isRunning;
    if (may()) this.#line.sendPlain(from.seat, encodeWords(message), may);
  }
}
