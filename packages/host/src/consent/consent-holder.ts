import type { LiveConnection } from '@porch/client';
import {
  apartFrom,
  isConfirmed,
  isOver,
  permissionsThat,
  presentOf,
  rulesOf,
  type OpenAsk,
  type Permission,
  type SessionCommand,
  type WhyNot,
} from '@porch/core';
import type { Clock } from '@porch/wire';
import type { Asked, Cover, HostLog, Running } from '../kit.ts';
import type { Answer, Question } from '../ports/question.ts';
import { GRANT_MS, type GrantBook } from './grant-book.ts';
import { chosenOf, questionForAsk, type ServicePlace } from './questions.ts';
import type { QuestionQueue } from './question-queue.ts';

export interface HolderParts {
  readonly connection: LiveConnection;
  readonly grants: GrantBook;
  readonly questions: QuestionQueue;
  readonly deskName: string;
  /** Of the service that this program is connected to. */
  readonly place: ServicePlace;
  /** What this program cannot do; it is not even asked for. */
  cannot(): Readonly<Partial<Record<Permission, WhyNot>>>;
  readonly time: Clock;
  readonly log: HostLog;
  /** What the abilities have to say to an ask. */
  abilities(): readonly Running[];
  warn(asked: Asked): string | undefined;
  report(make: (fact: number) => SessionCommand): void;
  /** Asks are shown and answered elsewhere: none is put from here. */
  readonly answersElsewhere: boolean;
  /** Something that was allowed may not be allowed any longer, or the other way round. */
  onChanged(): void;
}

const firstOf = <T>(running: readonly Running[], of: (one: Running) => T | undefined): T | undefined => {
  for (const one of running) {
    const found = of(one);
    if (found !== undefined) return found;
  }
  return undefined;
};

/**
 * Has the person here asked, signs what they allow, and takes it back the moment anybody says so. What the service tells
 * can only ever take away.
 */
export class ConsentHolder {
  readonly #parts: HolderParts;
  readonly #prompts = new Map<string, AbortController>();
  readonly #offs: (() => void)[];
  #isStopped = false;

  constructor(parts: HolderParts) {
    this.#parts = parts;
    const { connection } = parts;
    this.#offs = [connection.on('entry', () => this.follow()), connection.on('caughtUp', () => this.follow())];
  }

  get isStopped(): boolean {
    return this.#isStopped;
  }

  /** Ends everything at once. Holds without the service; the service hears of it when it can. */
  stop(why: string): void {
    if (this.#isStopped) return;
    this.#isStopped = true;
    this.#parts.grants.dropAll();
    for (const one of this.#parts.abilities()) one.takenBack?.();
    for (const prompt of this.#prompts.values()) prompt.abort();
    this.#parts.onChanged();
    this.#parts.report((fact) => ({ type: 'endSession', reason: 'stop', why, fact }));
  }

  /** Takes one permission back on behalf of the person here. */
  withdraw(participantId: string, permission: Permission, why: string): void {
    const technician = this.#parts.connection.state.participants[participantId];
    if (technician) this.#parts.grants.drop(permission, technician.signKey);
    for (const one of this.#parts.abilities()) one.takenBack?.(participantId, permission);
    this.#parts.onChanged();
    this.#parts.report((fact) => ({ type: 'withdrawPermission', participantId, permission, why, fact }));
  }

  /** Mouse and keyboard are the person's own again, from everybody. */
  takeHandsBack(why: string): void {
    const { connection, grants } = this.#parts;
    for (const { id, signKey } of presentOf(connection.state, 'desk'))
      for (const permission of permissionsThat((rules) => rules.isHandsOn))
        if (grants.holds(permission, signKey, connection.serviceNowMs)) this.withdraw(id, permission, why);
  }

  /** Brings what is held down to what the session still says, and opens prompts for what is asked. */
  follow(): void {
    const { connection, grants } = this.#parts;
    const { state } = connection;
    grants.follow(state);
    for (const [askId, prompt] of this.#prompts) if (!state.asks[askId]) prompt.abort();
    if (this.#parts.answersElsewhere) {
      this.#parts.onChanged();
      return;
    }
    if (connection.status === 'live' && state.holderId === connection.participantId && !this.#isStopped)
      for (const ask of Object.values(state.asks)) if (!this.#prompts.has(ask.id)) this.#queueAsk(ask);
    this.#parts.onChanged();
  }

  close(): void {
    this.#offs.forEach((off) => off());
    for (const prompt of this.#prompts.values()) prompt.abort();
  }

  #queueAsk(ask: OpenAsk): void {
    const { questions, log } = this.#parts;
    const abort = new AbortController();
    this.#prompts.set(ask.id, abort);
    questions
      .inTurn((put) => this.#answer(ask, abort, put))
      .catch((error: unknown) => log.error({ err: error }, 'an ask could not be answered'))
      .finally(() => this.#prompts.delete(ask.id));
  }

  async #answer(
    ask: OpenAsk,
    abort: AbortController,
    put: (question: Question, signal: AbortSignal) => Promise<Answer | undefined>,
  ): Promise<void> {
    const { connection, time } = this.#parts;
    const abilities = this.#parts.abilities();
    if (abort.signal.aborted || !connection.state.asks[ask.id]) return;
    if (!this.#mayBeAsked(ask)) return this.#refuse(ask);
    const cover = firstOf(abilities, (one) => one.covers?.(ask));
    if (cover) {
      await this.#grant(ask, [], cover);
      return;
    }
    if (abilities.some((one) => one.refuses?.(ask))) return this.#refuse(ask);
    const cancelLapse = time.after(ask.expiresAtMs - connection.serviceNowMs, () => abort.abort());
    try {
      const planned = firstOf(abilities, (one) => one.plan?.(ask, (question) => put(question, abort.signal)));
      if (planned) await this.#carryOut(ask, await planned);
      else await this.#askForYes(ask, abort.signal, put);
    } finally {
      cancelLapse();
    }
  }

  async #askForYes(
    ask: OpenAsk,
    signal: AbortSignal,
    put: (question: Question, signal: AbortSignal) => Promise<Answer | undefined>,
  ): Promise<void> {
    const { connection, deskName, place, time, warn } = this.#parts;
    const more = firstOf(this.#parts.abilities(), (one) => one.more?.(ask, (question) => put(question, signal)));
    const putIt = () => {
      const nowMs = time.wallMs();
      return put(questionForAsk(connection.state, ask, { deskName, place, nowMs, warn, more: more?.words }), signal);
    };
    let answer = await putIt();
    // The third way comes first, before anything is allowed; then the question is asked again, as things are by then.
    while (answer?.what === 'more') {
      await more?.choose();
      answer = await putIt();
    }
    if (answer?.what === 'no') this.#refuse(ask);
    else if (answer?.what === 'yes') await this.#grant(ask, answer.choices);
  }

  async #carryOut(ask: OpenAsk, plan: Awaited<ReturnType<NonNullable<Running['plan']>>>): Promise<void> {
    if (plan === 'no') return this.#refuse(ask);
    // Undefined: the questions were taken away.
    if (!plan || !(await this.#grant(ask, []))) return;
    try {
      await plan.carryOut();
    } catch (error) {
      this.#parts.log.error({ err: error }, 'what was agreed on could not be carried out');
      if (this.#parts.connection.state.participants[ask.participantId])
        for (const permission of ask.permissions)
          this.withdraw(ask.participantId, permission, 'it could not be written down');
    } finally {
      this.#parts.onChanged();
    }
  }

  /** Whether an ask keeps the catalogue's rules, whatever the service let through. A handover may list everything. */
  #mayBeAsked({ permissions }: OpenAsk): boolean {
    const { connection, grants } = this.#parts;
    const { state, serviceNowMs } = connection;
    const isHandover = state.handover !== undefined;
    return permissions.every((permission) => {
      const { isSensitive, needsConfirmed } = rulesOf(permission);
      return (
        this.#parts.cannot()[permission] === undefined &&
        (!isSensitive || permissions.length === 1 || isHandover) &&
        (!needsConfirmed || isConfirmed(state)) &&
        apartFrom(permission).every((other) => !permissions.includes(other) && !grants.holdsAny(other, serviceNowMs))
      );
    });
  }

  #refuse(ask: OpenAsk): void {
    this.#parts.report((fact) => ({ type: 'refuseAsk', askId: ask.id, fact }));
  }

  /** Grants exactly this of an ask. Throws with what the service refuses; then nothing is held, either. */
  async allow(ask: OpenAsk, chosen: readonly Permission[], cover?: Cover): Promise<void> {
    const { connection, grants } = this.#parts;
    const technician = connection.state.participants[ask.participantId];
    if (!technician || technician.isGone || this.#isStopped || isOver(connection.state)) return;
    const nowMs = connection.serviceNowMs;
    const endsAtMs = Math.min(nowMs + GRANT_MS, cover?.untilMs ?? Infinity);
    const signed = grants.grantChosen(chosen, technician, connection.state, { nowMs, endsAtMs });
    this.#parts.onChanged();
    try {
      await connection.command({
        type: 'grantAsk',
        askId: ask.id,
        grants: signed,
        ...(cover?.by === 'standing' ? { isStanding: true } : {}),
        ...(cover?.by === 'return' ? { isReturn: true } : {}),
      });
    } catch (error) {
      // What the service does not take is not held here either: both must agree before anything is effective.
      for (const permission of chosen) grants.drop(permission, technician.signKey);
      this.#parts.onChanged();
      throw error;
    }
  }

  /** Grants what stayed ticked of what was asked, in one breath. */
  async #grant(ask: OpenAsk, ticked: readonly boolean[], cover?: Cover): Promise<boolean> {
    const { connection, grants, log } = this.#parts;
    const technician = connection.state.participants[ask.participantId];
    if (!technician || this.#isStopped || isOver(connection.state)) return false;
    const held = (permission: Permission) => grants.holds(permission, technician.signKey, connection.serviceNowMs);
    const chosen = chosenOf(ask, ticked, held);
    if (!chosen.length) {
      this.#refuse(ask);
      return false;
    }
    try {
      await this.allow(ask, chosen, cover);
      return true;
    } catch (error) {
      log.warn({ why: String(error) }, 'a grant was not taken');
      return false;
    }
  }
}
