import {
  isOver,
  needsCallAnswer,
  presentParticipants,
  type OpenAsk,
  type Permission,
  type SessionCommand,
} from '@porch/core';
import { GRANT_MS, type LiveConnection } from '@porch/client';
import { AppError } from '@porch/wire';
import type { Logger } from 'pino';
import type { Answer, Desktop, Question } from '../desktop/desktop.ts';
import type { FactJournal } from './fact-journal.ts';
import type { GrantBook } from '@porch/client';
import type { KeepPlan } from '../device/keep-desk.ts';
import { mayBeAsked } from './support.ts';
import {
  acceptQuestion,
  callQuestion,
  chosenOf,
  hideQuestion,
  questionForAsk,
  type ServicePlace,
} from './questions.ts';

export interface HolderParts {
  readonly connection: LiveConnection;
  readonly desktop: Desktop;
  readonly grants: GrantBook;
  readonly journal: FactJournal;
  readonly desk: {
    deskName: string;
    deskPhone: string;
    noticeVersion: string;
    controlNeedsComparedWords: boolean;
  };
  /** Whether the person here said that this technician reads the same words. */
  areWordsCompared(participantId: string): boolean;
  readonly personName: string;
  /** Of the service that this program is connected to. */
  readonly place: ServicePlace;
  readonly log: Logger;
  /** When what a standing consent covers of an ask ends; undefined when the person here is to be asked. */
  coveredUntilMs?(ask: OpenAsk): number | undefined;
  /** Makes standing consents, where this computer can. */
  readonly keep?: {
    plan(ask: OpenAsk, put: (question: Question) => Promise<Answer | undefined>): Promise<KeepPlan | 'no' | undefined>;
    carryOut(plan: KeepPlan): Promise<void>;
  };
  /** Something that was allowed may not be allowed any longer, or the other way round. */
  onChanged(): void;
}

/** A fact that was not taken is sent again, first after this, then seldomer. */
const DELIVER_AGAIN_FIRST_MS = 500;
const DELIVER_AGAIN_LAST_MS = 10_000;

/**
 * Asks the person at this desktop, signs what they allow, and takes it back the moment anybody says so. What the
 * service tells can only ever take away.
 */
export class ConsentHolder {
  readonly #parts: HolderParts;
  readonly #prompts = new Map<string, AbortController>();
  readonly #offs: (() => void)[] = [];
  #queue: Promise<void> = Promise.resolve();
  #isStopped = false;
  #isClosed = false;
  readonly #delivering = new Set<string>();
  #againMs = DELIVER_AGAIN_FIRST_MS;
  #againTimer: ReturnType<typeof setTimeout> | undefined;
  #isPromptOpen = false;

  constructor(parts: HolderParts) {
    this.#parts = parts;
    const { connection, desktop } = parts;
    this.#offs.push(
      connection.on('entry', () => this.#follow()),
      connection.on('caughtUp', () => {
        this.#deliverFacts();
        this.#follow();
      }),
      desktop.onStop(() => this.stop('pressed Stop at the desktop')),
      desktop.onHideWanted(() => this.#hideInTurn()),
      desktop.onTakeBackWanted(() => this.#takeControlBack()),
    );
  }

  /** Takes up what came before this was listening: asks that are open, facts that a crash kept from being told. */
  begin(): void {
    this.#deliverFacts();
    this.#follow();
  }

  /** While a question is open, nothing is injected. */
  get isPromptOpen(): boolean {
    return this.#isPromptOpen;
  }
  get isStopped(): boolean {
    return this.#isStopped;
  }

  /** A customer who came without a page is asked here what the page would have asked. */
  async askAtTheDoor(): Promise<void> {
    const { connection, desk, personName } = this.#parts;
    const { state } = connection;
    if (state.hasAccepted || isOver(state) || presentParticipants(state, 'customer-page').length) return;
    if (needsCallAnswer(state)) {
      const called = await this.#askPlainly(callQuestion(desk.deskName, desk.deskPhone, state.language));
      if (called === undefined) return;
      await connection.command({ type: 'answerCall', answer: called ? 'i-called' : 'they-called' });
      if (!called) return;
    }
    const accepted = await this.#askPlainly(acceptQuestion(state, desk.deskName, this.#parts.place));
    if (accepted === undefined) return;
    if (!accepted) {
      this.stop('did not want to begin');
      return;
    }
    if (state.customerName === undefined)
      await connection.command({ type: 'introduceCustomer', name: personName, address: '' });
    await connection.command({ type: 'acceptSession', noticeVersion: desk.noticeVersion });
  }

  /** Asks something else than a permission, one thing at a time. */
  askInTurn(question: Question, signal?: AbortSignal): Promise<boolean | undefined> {
    return new Promise((resolve, reject) => {
      this.#queue = this.#queue.then(() => this.#askPlainly(question, signal).then(resolve, reject));
    });
  }

  /** The same for a question with parts that can be chosen. */
  chooseInTurn(question: Question, signal = new AbortController().signal): Promise<Answer | undefined> {
    return new Promise((resolve, reject) => {
      this.#queue = this.#queue.then(() => this.#ask(question, signal).then(resolve, reject));
    });
  }

  /** Ends everything at once. Holds without the service; the service hears of it when it can. */
  stop(why: string): void {
    if (this.#isStopped) return;
    this.#isStopped = true;
    this.#parts.grants.dropAll();
    for (const prompt of this.#prompts.values()) prompt.abort();
    this.#parts.onChanged();
    this.report((fact) => ({ type: 'endSession', reason: 'stop', why, fact }));
  }

  /** Takes one permission back on behalf of the person here. */
  withdraw(participantId: string, permission: Permission, why: string): void {
    const technician = this.#parts.connection.state.participants[participantId];
    if (technician) this.#parts.grants.drop(permission, technician.signKey);
    this.#parts.onChanged();
    this.report((fact) => ({ type: 'withdrawPermission', participantId, permission, why, fact }));
  }

  #takeControlBack(): void {
    const { connection, grants } = this.#parts;
    for (const { id, signKey } of presentParticipants(connection.state, 'technician'))
      if (grants.holds('control-input', signKey, connection.serviceNowMs))
        this.withdraw(id, 'control-input', 'taken back by a key at the desktop');
  }

  /** Writes a fact down and delivers it, now or when the line is back. */
  report(make: (fact: number) => SessionCommand): void {
    const { id, command, written } = this.#parts.journal.add(make);
    written
      .then(() => this.#deliver(id, command))
      .catch((error: unknown) => this.#parts.log.error({ err: error }, 'a fact could not be told'));
  }

  /** Asks nothing more. Facts are delivered further, until `end`. */
  close(): void {
    this.#offs.forEach((off) => off());
    for (const prompt of this.#prompts.values()) prompt.abort();
    this.#offs.length = 0;
    this.#offs.push(this.#parts.connection.on('caughtUp', () => this.#deliverFacts()));
  }

  end(): void {
    this.#isClosed = true;
    clearTimeout(this.#againTimer);
    this.#offs.forEach((off) => off());
  }

  #deliverFacts(): void {
    for (const fact of this.#parts.journal.waiting) this.#deliver(fact.id, fact.command);
  }

  /** Sent until it is taken; only an answer that would be the same again ends it. */
  #deliver(id: string, command: SessionCommand): void {
    const { connection, journal, log } = this.#parts;
    if (this.#isClosed || this.#delivering.has(id)) return;
    this.#delivering.add(id);
    connection.command(command, id).then(
      () => {
        this.#delivering.delete(id);
        journal.markDelivered(id);
        this.#againMs = DELIVER_AGAIN_FIRST_MS;
      },
      (error: unknown) => {
        this.#delivering.delete(id);
        const isFinal = error instanceof AppError && error.spec.isFinal;
        if (isFinal) journal.markDelivered(id);
        else if (connection.status !== 'closed') this.#deliverAgainLater();
        log.warn({ why: String(error), type: command.type, isFinal }, 'a fact was not taken');
      },
    );
  }

  #deliverAgainLater(): void {
    clearTimeout(this.#againTimer);
    this.#againTimer = setTimeout(() => this.#deliverFacts(), this.#againMs);
    this.#againMs = Math.min(DELIVER_AGAIN_LAST_MS, this.#againMs * 2);
  }

  /** Brings what is held down to what the session still says, and opens prompts for what is asked. */
  #follow(): void {
    const { connection, grants } = this.#parts;
    const { state } = connection;
    grants.follow(state);
    for (const [askId, prompt] of this.#prompts) if (!state.asks[askId]) prompt.abort();
    if (connection.status === 'live' && state.holderId === connection.participantId && !this.#isStopped)
      for (const ask of Object.values(state.asks)) if (!this.#prompts.has(ask.id)) this.#queueAsk(ask);
    this.#parts.onChanged();
  }

  #queueAsk(ask: OpenAsk): void {
    const abort = new AbortController();
    this.#prompts.set(ask.id, abort);
    this.#queue = this.#queue
      .then(async () => {
        const { connection, desk } = this.#parts;
        if (abort.signal.aborted || !connection.state.asks[ask.id]) return;
        // The service should have passed on none of these.
        if (!mayBeAsked(ask, connection.state)) {
          this.#refuse(ask);
          return;
        }
        const coveredUntilMs = this.#parts.coveredUntilMs?.(ask);
        if (coveredUntilMs !== undefined) {
          await this.#grant(ask, [], { untilMs: coveredUntilMs });
          return;
        }
        const isControl = ask.permissions.includes('control-input');
        if (isControl && desk.controlNeedsComparedWords && !this.#parts.areWordsCompared(ask.participantId)) {
          this.#refuse(ask);
          return;
        }
        const lapse = setTimeout(() => abort.abort(), Math.max(0, ask.expiresAtMs - connection.serviceNowMs));
        try {
          if (ask.permissions.includes('keep-device')) {
            await this.#keep(ask, abort.signal);
            return;
          }
          const question = questionForAsk(connection.state, ask, desk.deskName, Date.now(), this.#parts.place);
          let answer = await this.#ask(question, abort.signal);
          // Hiding comes first, before any picture; then the question is asked again.
          while (answer?.what === 'more') {
            await this.#chooseHidden(abort.signal);
            answer = await this.#ask(question, abort.signal);
          }
          if (answer?.what === 'no') this.#refuse(ask);
          else if (answer?.what === 'yes') await this.#grant(ask, answer.choices);
        } finally {
          clearTimeout(lapse);
        }
      })
      .catch((error: unknown) => this.#parts.log.error({ err: error }, 'an ask could not be answered'))
      .finally(() => this.#prompts.delete(ask.id));
  }

  /** A standing consent is more than a yes: what, for how long, and with which words. */
  async #keep(ask: OpenAsk, signal: AbortSignal): Promise<void> {
    const { keep, connection, log } = this.#parts;
    const plan = await keep?.plan(ask, (question) => this.#ask(question, signal));
    if (!keep || plan === 'no') {
      this.#refuse(ask);
      return;
    }
    // Undefined: the questions were taken away.
    if (!plan || !(await this.#grant(ask, []))) return;
    try {
      await keep.carryOut(plan);
    } catch (error) {
      log.error({ err: error }, 'the standing consent could not be kept');
      if (connection.state.participants[ask.participantId])
        this.withdraw(ask.participantId, 'keep-device', 'it could not be written down');
    }
  }

  #refuse(ask: OpenAsk): void {
    this.report((fact) => ({ type: 'refuseAsk', askId: ask.id, fact }));
  }

  /** Grants what stayed ticked of what was asked, in one breath. */
  async #grant(ask: OpenAsk, ticked: readonly boolean[], standing?: { readonly untilMs: number }): Promise<boolean> {
    const { connection, grants, log } = this.#parts;
    const technician = connection.state.participants[ask.participantId];
    if (!technician || this.#isStopped) return false;
    const held = (permission: Permission) => grants.holds(permission, technician.signKey, connection.serviceNowMs);
    const chosen = chosenOf(ask, ticked, held);
    if (!chosen.length) {
      this.#refuse(ask);
      return false;
    }
    const nowMs = connection.serviceNowMs;
    const endsAtMs = Math.min(nowMs + GRANT_MS, standing?.untilMs ?? Infinity);
    const signed = grants.grantChosen(chosen, technician, connection.state, { nowMs, endsAtMs });
    this.#parts.onChanged();
    try {
      await connection.command({
        type: 'grantAsk',
        askId: ask.id,
        grants: signed,
        ...(standing ? { isStanding: true } : {}),
      });
      return true;
    } catch (error) {
      // What the service does not take is not held here either: both must agree before anything is effective.
      for (const permission of chosen) grants.drop(permission, technician.signKey);
      this.#parts.onChanged();
      log.warn({ why: String(error) }, 'a grant was not taken');
      return false;
    }
  }

  #hideInTurn(): void {
    this.#queue = this.#queue
      .then(() => this.#chooseHidden(new AbortController().signal))
      .catch((error: unknown) => this.#parts.log.error({ err: error }, 'nothing could be chosen'));
  }

  /** The person here picks whose windows never leave this computer. No title leaves it, either. */
  async #chooseHidden(signal: AbortSignal): Promise<void> {
    const { desktop, connection } = this.#parts;
    const programs = await desktop.listPrograms();
    const answer = await this.#ask(hideQuestion(programs, connection.state.language), signal);
    if (answer?.what !== 'yes') return;
    // Those that did not fit into the list stay as they are.
    await desktop.setHidden(programs.filter((p, i) => answer.choices[i] ?? p.isHidden).map((p) => p.program));
  }

  /** A question that is answered with yes or no alone. */
  async #askPlainly(question: Question, signal = new AbortController().signal): Promise<boolean | undefined> {
    const answer = await this.#ask(question, signal);
    return answer && answer.what === 'yes';
  }

  async #ask(question: Question, signal: AbortSignal): Promise<Answer | undefined> {
    const { connection, desktop } = this.#parts;
    this.#isPromptOpen = true;
    this.#parts.onChanged();
    connection.tellStep('prompt-open');
    try {
      return await desktop.ask(question, signal);
    } finally {
      this.#isPromptOpen = false;
      connection.tellStep('ready');
      this.#parts.onChanged();
    }
  }
}
