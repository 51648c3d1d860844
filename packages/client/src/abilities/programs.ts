import {
  consentHolderOf,
  isOfComputer,
  rightsOf,
  MAX_PROGRAM_ROWS,
  riskNameOf,
  type ProgramAct,
  type ProgramList,
  type ProgramOutcome,
  type ProgramRow,
  type WhyMissing,
} from '@porch/core';
import {
  programsChannel,
  randomId,
  readProgramRow,
  serviceOrderBytes,
  signBytes,
  type ProgramsMessage,
} from '@porch/wire';
import { askLeave } from '../ask-leave.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { SealedLine } from '../sealed-line.ts';
import { RefusedThere } from '../refused-there.ts';

/** What was taken is said again after this: something may have been lost, or the list may not be watched there any longer. */
const SAY_AGAIN_MS = 15_000;
/** A service that does not stop is waited for as long as systemd does. */
const ACT_MS = 120_000;

/** The customer's side said no, in its own words. */
export class ProgramsRefused extends RefusedThere {}

/** A list as it is now. */
export interface WatchedList<L extends ProgramList = ProgramList> {
  readonly rows: ReadonlyMap<string, ProgramRow<L>>;
  /** All of it has come at least once. */
  readonly isWhole: boolean;
  /** More is said of each row in a moment. */
  readonly isHalf?: boolean;
  /** How many there are; more than there are rows where not all were sent. */
  readonly count: number;
  /** Why it cannot be had. */
  readonly missing?: WhyMissing;
  /** Why the customer's side does not send it, in its own words. */
  readonly refused?: string;
}

/** What an act would hit. */
export interface PreparedAct {
  readonly actId: string;
  readonly act: ProgramAct;
  /** As its list names it. */
  readonly target: string;
  readonly name: string;
  readonly hanging: readonly string[];
  readonly hangingCount: number;
  readonly wakers: readonly string[];
  /** The label of the device asks for leave of the desk first. */
  readonly isCareful: boolean;
}
export interface ActedOn {
  readonly outcome: ProgramOutcome;
  /** What the computer said of it, in its own words. */
  readonly says: string;
}

interface Watch {
  readonly list: ProgramList;
  readonly rows: Map<string, ProgramRow>;
  turn: number;
  count: number;
  begunAtMs: number;
  tell(list: WatchedList): void;
  endSaying(): void;
}

/** The technician's side of what runs on a computer: lists that are kept up to date, and what is done to their rows. */
export class TechnicianPrograms {
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<ProgramsMessage>;
  readonly #off: () => void;
  readonly #answers: OpenAnswers;
  readonly #watches = new Map<string, Watch>();
  readonly #preparing = new Map<string, Pick<PreparedAct, 'act' | 'target'>>();

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#answers = new OpenAnswers(connection.clock, (id) => this.#preparing.delete(id), ACT_MS);
    this.#line = new SealedLine(connection, programsChannel);
    this.#off = this.#line.listen(
      ({ message }) => this.#take(message),
      (from) => from.id === connection.state.holderId,
    );
  }

  /** Watches a list until the returned function is called. `tell` hears of each turn; rows keep their identity where they did not change. */
  watch<L extends ProgramList>(list: L, tell: (list: WatchedList<L>) => void): () => void {
    const watch: Watch = {
      ...{ list, rows: new Map<string, ProgramRow>(), turn: 0, count: 0, begunAtMs: 0, endSaying: () => undefined },
      tell: tell as (list: WatchedList) => void,
    };
    this.#begin(watch);
    // What ended over there was begun anew under another number: whichever it is now ends.
    return () => {
      for (const [id, one] of this.#watches) if (one === watch) this.#stop(id);
    };
  }

  /** What an act would hit. Rejects with ProgramsRefused when it is never done, or not allowed. */
  prepare(act: ProgramAct, target: string): Promise<PreparedAct> {
    const actId = randomId(this.#connection.random);
    this.#preparing.set(actId, { act, target });
    return this.#answers.wait(actId, () => this.#send({ type: 'prepare', actId, act, target }));
  }
  /** Asks the desk for leave to do it on such a device; `reason`: outside of the hours for it. Throws what the service refuses. */
  askLeave({ actId, act, name }: PreparedAct, reason?: string): Promise<void> {
    return askLeave(this.#connection, { actId, act: riskNameOf(act), name }, reason);
  }
  /** Does what was prepared. */
  act(prepared: PreparedAct): Promise<ActedOn> {
    const { actId } = prepared;
    const signature = this.#signatureOf(prepared);
    return this.#answers.wait(actId, () => this.#send({ type: 'act', actId, ...(signature ? { signature } : {}) }));
  }
  /** Thought better of it. */
  drop({ actId }: PreparedAct): void {
    this.#send({ type: 'drop', actId });
  }

  /** Of a service of the computer, for the part that holds administrator rights, while this technician has some. */
  #signatureOf({ actId, act, target }: PreparedAct): string | undefined {
    const { state, participantId, sessionId, keys } = this.#connection;
    const rights = rightsOf(state.slices['administrator-rights'], participantId);
    if (!rights || !isOfComputer(act, target)) return undefined;
    return signBytes(keys, serviceOrderBytes({ sessionId, actId, act, target }));
  }

  close(): void {
    this.#off();
    for (const watchId of this.#watches.keys()) this.#stop(watchId);
    this.#answers.close();
  }

  #begin(watch: Watch): void {
    const watchId = randomId(this.#connection.random);
    watch.rows.clear();
    [watch.turn, watch.count, watch.begunAtMs] = [0, 0, this.#connection.clock.nowMs()];
    this.#watches.set(watchId, watch);
    this.#send({ type: 'watch', watchId, list: watch.list });
    this.#sayLater(watchId, watch);
  }

  #stop(watchId: string): void {
    this.#forget(watchId);
    this.#send({ type: 'stop', watchId });
  }

  #forget(watchId: string): void {
    this.#watches.get(watchId)?.endSaying();
    this.#watches.delete(watchId);
  }

  #send(message: ProgramsMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }

  #take(message: ProgramsMessage): void {
    if (message.type === 'prepared') this.#prepared(message);
    else if (message.type === 'acted') {
      const { outcome, says } = message;
      this.#answers.resolve(message.actId, { outcome, says } satisfies ActedOn);
    } else if (message.type === 'refused') this.#refused(message);
    else if ('watchId' in message) this.#takeOfWatch(message);
  }

  #prepared({ actId, name, hanging, hangingCount, wakers, isCareful }: ProgramsMessage & { type: 'prepared' }): void {
    const asked = this.#preparing.get(actId);
    if (asked === undefined) return;
    this.#answers.resolve(actId, {
      actId,
      ...asked,
      name,
      hanging,
      hangingCount,
      wakers,
      isCareful: isCareful === true,
    } satisfies PreparedAct);
  }

  #refused({ id, why }: { readonly id: string; readonly why: string }): void {
    const watch = this.#watches.get(id);
    if (!watch) return this.#answers.reject(id, new ProgramsRefused(why));
    this.#forget(id);
    // It was watched, and ended there while nothing came through. What ends again at once is not begun for ever.
    const watchedMs = this.#connection.clock.nowMs() - watch.begunAtMs;
    if (watch.turn > 0 && watchedMs >= SAY_AGAIN_MS) this.#begin(watch);
    else watch.tell({ rows: watch.rows, isWhole: false, count: 0, refused: why });
  }

  #takeOfWatch(message: ProgramsMessage & { readonly watchId: string }): void {
    const { watchId } = message;
    const watch = this.#watches.get(watchId);
    if (!watch) return;
    if (message.type === 'rows') this.#addRows(watch, message.rows);
    else if (message.type === 'gone') for (const id of message.ids) watch.rows.delete(id);
    else if (message.type === 'missing') {
      this.#forget(watchId);
      watch.tell({ rows: new Map(watch.rows), isWhole: false, count: watch.count, missing: message.why });
    } else if (message.type === 'turn') {
      [watch.turn, watch.count] = [message.turn, message.count];
      const { isHalf = false } = message;
      watch.tell({ rows: new Map(watch.rows), isWhole: true, isHalf, count: Math.max(message.count, watch.rows.size) });
      this.#sayMore(watchId, watch);
    }
  }

  /** What is no row of this list, whoever sent it, is left out; so is what is more than anybody can look at. */
  #addRows(watch: Watch, rows: readonly unknown[]): void {
    for (const value of rows) {
      const row = readProgramRow(watch.list, value);
      if (row && (watch.rows.size < MAX_PROGRAM_ROWS || watch.rows.has(row.id))) watch.rows.set(row.id, row);
    }
  }

  #sayMore(watchId: string, watch: Watch): void {
    this.#send({ type: 'more', watchId, turn: watch.turn });
    this.#sayLater(watchId, watch);
  }
  #sayLater(watchId: string, watch: Watch): void {
    watch.endSaying();
    watch.endSaying = this.#connection.clock.after(SAY_AGAIN_MS, () => this.#sayMore(watchId, watch));
  }
}
