import {
  consentHolderOf,
  isOver,
  plainOutput,
  readActionText,
  RUN_RISK,
  type RunbookAction,
  type RunbookValues,
  type RunOutcome,
} from '@porch/core';
import {
  hashOfText,
  MAX_OUTPUT_CHARACTERS,
  orderBytes,
  randomId,
  runbookChannel,
  signBytes,
  type RunbookMessage,
} from '@porch/wire';
import { askLeave } from '../ask-leave.ts';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { RefusedThere } from '../refused-there.ts';
import type { RestClient } from '../rest-client.ts';
import { SealedLine } from '../sealed-line.ts';

/** What was asked is asked again after this: the question or the answer may have been lost. */
const ASK_AGAIN_MS = 10_000;
/** What it printed at last, and how it ended, come no later than this after the ledger says that it is over. */
const REST_MS = 5_000;
/** Two programs have to answer, and the ledger has to come. */
const LOOK_MS = 30_000;

/** The customer's side said no, in its own words. */
export class RunRefusedThere extends RefusedThere {}

/** Exactly what would be done at their computer. */
export interface LookedAt {
  readonly runId: string;
  readonly title: string;
  readonly command: readonly string[];
  readonly place: string;
  readonly isReplacing: boolean;
  readonly isSaved: boolean;
  readonly isCareful: boolean;
  readonly mayGoOn: boolean;
  /** It is run with administrator rights. */
  readonly isRaised: boolean;
}
/** How a run stands, and what it printed so far. */
export interface RunNow {
  readonly text: string;
  /** More was printed than is kept there. */
  readonly isCut: boolean;
  readonly ended?: { readonly outcome: RunOutcome; readonly code: number | undefined; readonly mayGoOn: boolean };
  /** Why it is not run there, in its own words. */
  readonly refused?: string;
}
interface Following {
  now: RunNow;
  /** How much of what is there has been asked for and taken, as the other side counts. */
  taken: number;
  /** Once it is over: how much of what it printed there is, and how it ended. */
  last: { readonly kept: number; readonly isCut: boolean; readonly ended: NonNullable<RunNow['ended']> } | undefined;
  tell(now: RunNow): void;
  endAsking(): void;
  /** While nothing but the rest of it is waited for. */
  endRest: (() => void) | undefined;
}

/** The technician's side of actions that run at a customer's computer. */
export class TechnicianRunbook {
  readonly #connection: LiveConnection;
  readonly #rest: Pick<RestClient, 'chooseRunbookAction'>;
  readonly #line: SealedLine<RunbookMessage>;
  readonly #offs: (() => void)[];
  readonly #answers: OpenAnswers;
  readonly #following = new Map<string, Following>();

  constructor(connection: LiveConnection, rest: Pick<RestClient, 'chooseRunbookAction'>) {
    this.#connection = connection;
    this.#rest = rest;
    this.#answers = new OpenAnswers(connection.clock, () => undefined, LOOK_MS);
    this.#line = new SealedLine(connection, runbookChannel);
    this.#offs = [
      this.#line.listen(
        ({ message }) => this.#take(message),
        (from) => from.id === connection.state.holderId,
      ),
      connection.on('entry', () => this.#followAll()),
      connection.on('caughtUp', () => this.#followAll()),
    ];
  }

  /** Chooses an action for this session. What is chosen may be an instruction, which nobody runs. Throws what the service refuses. */
  async choose(actionId: string): Promise<{ readonly runId: string; readonly text: string }> {
    const { sessionId, participantId } = this.#connection;
    const runId = randomId(this.#connection.random);
    return this.#rest.chooseRunbookAction(sessionId, { runId, actionId, participantId });
  }

  /** What would be done exactly. Rejects with RunRefusedThere when it never is, or is not allowed. */
  async look(actionId: string, { title }: Pick<RunbookAction, 'title'>, values: RunbookValues): Promise<LookedAt> {
    const { runId, text } = await this.choose(actionId);
    const looked = await this.#answers.wait<Omit<LookedAt, 'title'>>(runId, () =>
      this.#send({
        ...{ type: 'look', runId, text, values },
        ...(readActionText(text)?.rights === 'administrator'
          ? { signature: this.#signatureOf(runId, text, values) }
          : {}),
      }),
    );
    return { ...looked, title };
  }
  /** Asks the desk for leave to do it on such a device; `reason`: outside of the hours for it. Throws what the service refuses. */
  askLeave({ runId, title }: Pick<LookedAt, 'runId' | 'title'>, reason?: string): Promise<void> {
    return askLeave(this.#connection, { actId: runId, act: RUN_RISK, name: title }, reason);
  }

  /** Runs it, and tells how it stands until it is over. Until the returned function is called: then nobody wants it any longer. */
  run({ runId }: Pick<LookedAt, 'runId'>, tell: (now: RunNow) => void): () => void {
    const following: Following = {
      ...{ now: { text: '', isCut: false }, taken: 0, last: undefined, tell },
      ...{ endAsking: () => undefined, endRest: undefined },
    };
    this.#following.set(runId, following);
    this.#send({ type: 'run', runId });
    this.#ask(runId, following);
    return () => this.drop({ runId });
  }
  /** Ends it, with all that it started. */
  stop({ runId }: Pick<LookedAt, 'runId'>): void {
    this.#send({ type: 'stop', runId });
  }
  /** Thought better of it, or has read it. */
  drop({ runId }: Pick<LookedAt, 'runId'>): void {
    this.#forget(runId);
    this.#send({ type: 'drop', runId });
  }

  /** Says that a step of an instruction is done, or not after all. Throws what the service refuses. */
  async tick(runId: string, step: number, isDone: boolean): Promise<void> {
    await this.#connection.command({ type: 'runbook/tick', runId, step, isDone });
  }

  close(): void {
    this.#offs.forEach((off) => off());
    for (const runId of [...this.#following.keys()]) this.#forget(runId);
    this.#answers.close();
  }

  /** By which the part that holds rights knows that these values are this technician's. */
  #signatureOf(runId: string, text: string, values: RunbookValues): string {
    const { keys, sessionId } = this.#connection;
    return signBytes(keys, orderBytes({ sessionId, runId, hash: hashOfText(text) }, values));
  }

  #send(message: RunbookMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    return holder !== undefined && this.#line.send(holder.seat, message);
  }
  #forget(runId: string): void {
    const following = this.#following.get(runId);
    following?.endAsking();
    following?.endRest?.();
    this.#following.delete(runId);
  }

  #followAll(): void {
    for (const [runId, following] of this.#following) this.#follow(runId, following);
  }
  /** It may be over without its side having said so: it went, or may not say anything any longer. */
  #follow(runId: string, following: Following): void {
    const { state } = this.#connection;
    if (state.slices.runbook[runId]?.standing !== 'over' && !isOver(state)) return;
    following.endRest ??= this.#connection.clock.after(REST_MS, () => {
      const outcome = this.#connection.state.slices.runbook[runId]?.outcome ?? 'broken-off';
      const ended = { outcome, code: undefined, mayGoOn: false };
      following.last = { kept: following.taken, isCut: true, ended };
      this.#next(runId, following);
    });
  }

  /** For what comes next; again and again, until it comes. */
  #ask(runId: string, following: Following): void {
    following.endAsking();
    this.#send({ type: 'more', runId, from: following.taken });
    following.endAsking = this.#connection.clock.after(ASK_AGAIN_MS, () => this.#ask(runId, following));
  }

  #take(message: RunbookMessage): void {
    if (message.type === 'looked') {
      const { runId, command, place, isReplacing, isSaved, isCareful, mayGoOn, isRaised } = message;
      this.#answers.resolve(runId, {
        ...{ runId, command: command.map(plainOutput), place: plainOutput(place) },
        ...{ isReplacing: isReplacing === true, isSaved: isSaved === true },
        ...{ isCareful: isCareful === true, mayGoOn: mayGoOn === true },
        isRaised: isRaised === true,
      } satisfies Omit<LookedAt, 'title'>);
    } else if (message.type === 'refused') this.#refused(message);
    else if (message.type === 'output') this.#output(message);
    else if (message.type === 'ended') this.#ended(message);
  }

  #refused({ id, why }: { readonly id: string; readonly why: string }): void {
    const following = this.#following.get(id);
    this.#answers.reject(id, new RunRefusedThere(why));
    if (!following) return;
    this.#forget(id);
    following.now = { ...following.now, refused: why };
    following.tell(following.now);
  }

  #output({ runId, from, text }: RunbookMessage & { type: 'output' }): void {
    const following = this.#following.get(runId);
    // What was asked for twice comes twice, and a computer that never ends is not listened to for ever.
    if (!following || from !== following.taken || !text || following.taken >= MAX_OUTPUT_CHARACTERS) return;
    following.taken += text.length;
    following.endRest?.();
    following.endRest = undefined;
    this.#follow(runId, following);
    // Whoever sent it may not have looked at what is in it.
    following.now = { ...following.now, text: following.now.text + plainOutput(text) };
    this.#next(runId, following);
  }
  #ended({ runId, outcome, code, printed, kept, mayGoOn }: RunbookMessage & { type: 'ended' }): void {
    const following = this.#following.get(runId);
    if (!following) return;
    following.last = {
      ...{ kept: Math.min(kept, MAX_OUTPUT_CHARACTERS), isCut: printed > kept },
      ended: { outcome, code, mayGoOn: mayGoOn === true },
    };
    this.#next(runId, following);
  }
  /** Told, and asked for more until all of it is here: only then it is over. */
  #next(runId: string, following: Following): void {
    const { last, taken } = following;
    if (!last || taken < last.kept) {
      following.tell(following.now);
      return this.#ask(runId, following);
    }
    following.now = { ...following.now, isCut: last.isCut, ended: last.ended };
    this.drop({ runId });
    following.tell(following.now);
  }
}
