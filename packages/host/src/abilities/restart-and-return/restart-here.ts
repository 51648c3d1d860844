import { restartRiskOf, type NotRestarted, type Participant, type RestartHow } from '@porch/core';
import type { SealedLine } from '@porch/client';
import { MAX_HITS, type RestartMessage } from '@porch/wire';
import { careHere, isCleared } from '../../care.ts';
import type { Kit } from '../../kit.ts';
import { RestartRefused, type RestartPort, type ReturnAgreement } from '../../ports/restart-port.ts';
import { RightsRefused } from '../../ports/rights-port.ts';
import { ASKING, NEEDS_LEAVE, NEVER_HERE } from '../../reasons.ts';
import { timeLimit } from '../../time-limit.ts';
import { UnderWay } from '../../under-way.ts';
import { agreementOf, offeredReturn } from './agreement.ts';
import { isLimitedHere } from './coming-back.ts';
import { restartQuestion, sessionWork, stoppedBy, type WantedRestart } from './restart-question.ts';

/** What is met is looked for no longer than this. */
const LOOK_MS = 5_000;
/** Nobody who answers by then is there. */
const ANSWER_MS = 120_000;
/** The ledger has to say that it goes down before it does. */
const TELL_MS = 5_000;
/** A computer that is still up then does not go down. */
const DOWN_MS = 90_000;
const FAILED = 'it failed at the computer';

interface One extends WantedRestart {
  readonly id: string;
  readonly signature: string | undefined;
}

/** It was not wanted, or did not go well: why, for the ledger, and for the technician in words. */
class NoRestart extends Error {
  readonly why: NotRestarted;
  constructor(why: NotRestarted, words: string) {
    super(words);
    this.why = why;
  }
}

/** Has this computer go down when the person here says so, and says what came of it. */
export class RestartHere {
  readonly #kit: Kit;
  readonly #port: RestartPort;
  readonly #line: SealedLine<RestartMessage>;
  readonly #underWay: UnderWay;
  readonly #onAgreed: (agreement: ReturnAgreement, participantId: string) => Promise<void>;
  readonly #working = new Set<Promise<void>>();
  readonly #looking = new Set<number>();
  #one: One | undefined;
  #endWait: () => void = () => undefined;
  /** It was ordered, and is on its way down. */
  #isGoing = false;
  #isClosed = false;

  constructor(
    kit: Kit,
    port: RestartPort,
    line: SealedLine<RestartMessage>,
    onAgreed: (agreement: ReturnAgreement, participantId: string) => Promise<void>,
  ) {
    this.#kit = kit;
    this.#port = port;
    this.#line = line;
    this.#onAgreed = onAgreed;
    this.#underWay = new UnderWay(kit, {
      ...{ permission: 'restart-computer', most: 1, staleMs: ANSWER_MS + LOOK_MS + TELL_MS + DOWN_MS },
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, id, why) => line.send(seat, { type: 'refused', id, why }),
    });
  }

  get isGoing(): boolean {
    return this.#isGoing;
  }

  /** One at a time for each technician: each starts programs here. */
  look(from: Participant, id: string): void {
    const lease = this.#kit.held.during('restart-computer', from.signKey);
    if (this.#looking.has(from.seat)) return this.#underWay.refuse(from.seat, id, 'too many are on their way');
    this.#looking.add(from.seat);
    const looked = this.#tellHits(from, id, lease.signal, () => lease.isRunning).finally(() =>
      this.#looking.delete(from.seat),
    );
    this.#follow(looked, 'what a restart meets was not found out');
  }

  restart(from: Participant, { id, how, signsIn, signature }: RestartMessage & { type: 'restart' }): void {
    // Said twice it is wanted once.
    if (this.#one?.id === id) return;
    const whyNot = this.#one || this.#isGoing ? 'it is on its way down' : this.#whyNot(from, id, how);
    if (whyNot !== undefined) return this.#underWay.refuse(from.seat, id, whyNot);
    if (!this.#underWay.begin(from, id)) return;
    const one: One = { id, from, how, signsIn: signsIn === true, signature };
    this.#one = one;
    this.#follow(this.#carryOut(one), 'a restart could not be carried out');
  }

  drop(from: Participant, id: string): void {
    if (this.#one?.from.seat === from.seat && !this.#isGoing) this.#underWay.end(id);
  }

  check(): void {
    this.#underWay.check();
  }
  async close(): Promise<void> {
    this.#isClosed = true;
    this.#endWait();
    this.#underWay.close();
    while (this.#working.size) await Promise.all(this.#working);
  }

  #whyNot(from: Participant, actId: string, how: RestartHow): string | undefined {
    if (this.#kit.isAsking) return ASKING;
    const care = careHere(this.#kit);
    if (care?.isNever) return NEVER_HERE;
    const asked = { actId, act: restartRiskOf(how), name: this.#port.computer, byId: from.id };
    return care !== undefined && !isCleared(this.#kit, asked) ? NEEDS_LEAVE : undefined;
  }

  async #tellHits(from: Participant, id: string, signal: AbortSignal, may: () => boolean): Promise<void> {
    const { hits, hows, canSignIn } = await this.#look(signal);
    if (!may()) return;
    this.#line.send(from.seat, {
      ...{ type: 'hits', id, computer: this.#port.computer, account: this.#port.account, hows: [...hows], canSignIn },
      hits: hits.slice(0, MAX_HITS).map(({ hit, count }) => ({ hit, ...(count === undefined ? {} : { count }) })),
      ...(careHere(this.#kit) ? { isCareful: true as const } : {}),
    });
  }
  async #look(outer: AbortSignal) {
    const limit = timeLimit(this.#kit.time, LOOK_MS, outer);
    try {
      const outlook = await this.#port.look(limit.signal);
      return { ...outlook, hits: [...sessionWork(this.#kit.connection.state), ...outlook.hits] };
    } finally {
      limit.release();
    }
  }

  async #carryOut(one: One): Promise<void> {
    const { id, from } = one;
    const signal = this.#underWay.signalOf(id);
    let hasTold = false;
    try {
      const agreement = await this.#ask(one, signal);
      await this.#onAgreed(agreement, from.id);
      if (one.signsIn) await this.#armSignIn(one, signal);
      this.#need(one);
      this.#tellBegun(one);
      hasTold = true;
      await this.#isTold(id);
      this.#need(one);
      this.#isGoing = true;
      this.#line.send(from.seat, { type: 'begun', id });
      await this.#port.goDown(one.how);
      await this.#staysUp();
      throw new NoRestart('stayed-up', 'it did not go down');
    } catch (error) {
      await this.#notDone(one, error, hasTold);
    } finally {
      this.#isGoing = false;
      if (this.#one === one) this.#one = undefined;
      this.#underWay.end(id);
      this.#kit.changed();
    }
  }

  /** What the person says to it, with what is to come back. */
  async #ask(one: One, signal: AbortSignal): Promise<ReturnAgreement> {
    const { connection } = this.#kit;
    const outlook = await this.#look(signal);
    if (!outlook.hows.includes(one.how)) throw new NoRestart('refused', 'this computer does not do that');
    if (one.signsIn && (!outlook.canSignIn || one.how === 'sign-out'))
      throw new NoRestart('refused', 'nobody can be signed in by itself there');
    if (stoppedBy(outlook, one.how))
      throw new NoRestart(
        'refused',
        stoppedBy(outlook, one.how)?.hit === 'others'
          ? 'others are signed in there'
          : 'packages are being installed there',
      );
    const offered = offeredReturn(connection.state, one.from, {
      nowMs: connection.serviceNowMs,
      isLimited: isLimitedHere(this.#kit),
    });
    const limit = timeLimit(this.#kit.time, ANSWER_MS, signal);
    try {
      const answer = await this.#kit.ask(restartQuestion(this.#kit, one, outlook, offered), limit.signal);
      if (answer?.what === 'no') throw new NoRestart('said-no', 'the customer said no');
      if (answer?.what !== 'yes')
        throw limit.isLate ? new NoRestart('no-answer', 'nobody answered there') : new NoRestart('broken-off', FAILED);
      this.#need(one);
      return agreementOf(connection.state, one.from, offered, answer.choices);
    } finally {
      limit.release();
    }
  }

  async #armSignIn({ id, from, signature }: One, signal: AbortSignal): Promise<void> {
    const { account } = this.#port;
    const raised = this.#kit.shared.raisedFor(from.signKey);
    if (!raised) throw new NoRestart('refused', 'it needs administrator rights');
    const what = this.#kit.words.restartAndReturn.signInUse({ account });
    await raised.signInOnce({ orderId: id, account, signature }, what, { may: () => this.#isWanted(id), signal });
  }

  #isWanted(id: string): boolean {
    return this.#underWay.leaseOf(id)?.isRunning ?? false;
  }
  #need({ id }: One): void {
    if (!this.#isWanted(id)) throw new NoRestart('broken-off', 'the customer has not allowed it');
  }

  #tellBegun({ id, from, how, signsIn }: One): void {
    this.#kit.report((fact) => ({
      ...{ type: 'restart-and-return/tellBegun', restartId: id, participantId: from.id, how, fact },
      ...(signsIn ? { signsIn: true as const } : {}),
    }));
  }
  /** Resolves once the ledger says that it goes down. Throws when it does not. */
  async #isTold(id: string): Promise<void> {
    const { connection, time } = this.#kit;
    const isThere = () => connection.state.slices['restart-and-return'].away?.restartId === id;
    const isTold = await new Promise<boolean>((resolve) => {
      const off = connection.on('entry', () => isThere() && end(true));
      const cancel = time.after(TELL_MS, () => end(false));
      const end = (was: boolean) => {
        off();
        cancel();
        resolve(was);
      };
      this.#endWait = () => end(false);
      if (isThere() || this.#isClosed) end(isThere());
    });
    if (!isTold) throw new NoRestart('broken-off', 'the line is gone');
  }
  #staysUp(): Promise<void> {
    return new Promise((resolve) => {
      const cancel = this.#kit.time.after(DOWN_MS, () => resolve());
      this.#endWait = () => {
        cancel();
        resolve();
      };
      if (this.#isClosed) this.#endWait();
    });
  }

  async #notDone({ id, from }: One, error: unknown, hasTold: boolean): Promise<void> {
    // Closed while it goes down: this program comes back with it.
    if (this.#isGoing && this.#isClosed) return;
    const isOurs = error instanceof NoRestart;
    const isSaid = isOurs || error instanceof RestartRefused || error instanceof RightsRefused;
    if (!isSaid) this.#kit.log.warn({ why: String(error) }, 'a restart failed');
    const why = isOurs ? error.why : 'refused';
    this.#port.stayUp();
    if (hasTold || why !== 'broken-off')
      this.#kit.report((fact) => ({
        ...{ type: 'restart-and-return/tellNotBegun', restartId: id, participantId: from.id, why, fact },
      }));
    this.#underWay.refuse(from.seat, id, isSaid ? error.message : FAILED);
  }

  #follow(work: Promise<void>, complaint: string): void {
    const done = work
      .catch((error: unknown) => this.#kit.log.error({ why: String(error) }, complaint))
      .finally(() => this.#working.delete(done));
    this.#working.add(done);
  }
}
