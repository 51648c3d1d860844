import type { SealedLine } from '@porch/client';
import {
  isNamedIn,
  MAX_POINT_SERVICES,
  isOfComputer,
  isOfService,
  riskNameOf,
  takesAway,
  type Participant,
  type ProgramAct,
  type ProgramList,
} from '@porch/core';
import { encodeWords, MAX_HANGING, type ProgramsMessage } from '@porch/wire';
import { careHere, isCleared } from '../../care.ts';
import { ASKING, NEEDS_LEAVE, NEVER_HERE } from '../../reasons.ts';
import type { Lease } from '../../consent/held.ts';
import type { Kit } from '../../kit.ts';
import type { ActEnded, ActPlan, ProgramsPort } from '../../ports/programs-port.ts';
import { PartMissing } from '../../ports/system-port.ts';
import { timeLimit } from '../../time-limit.ts';
import { UnderWay } from '../../under-way.ts';

/** What was looked at longer ago than this is looked at again before it is done. */
const PREPARED_MS = 120_000;
/** A second person may be asked meanwhile. */
const PREPARED_WITH_CARE_MS = 15 * 60_000;
const PREPARE_MS = 10_000;
/** As long as systemd waits for a service that does not stop, and a little. */
const ACT_MS = 100_000;
const MOST_AT_ONCE = 4;
const MAX_NAME_CHARS = 120;
const MAX_SAYS_CHARS = 400;

const isKeyOf = <T extends object>(table: T, key: PropertyKey): key is keyof T => Object.hasOwn(table, key);

interface One {
  readonly from: Participant;
  readonly act: ProgramAct;
  readonly target: string;
  readonly lease: Lease;
  readonly preparedAtMs: number;
  plan?: ActPlan;
  /** It is done, or is being done. */
  isBegun: boolean;
}

/** What technicians end, stop and start: what it hits is said first, and the person here hears of each. */
export class ProgramActs {
  readonly #kit: Kit;
  readonly #port: ProgramsPort;
  readonly #line: SealedLine<ProgramsMessage>;
  readonly #underWay: UnderWay;
  readonly #onActed: (list: ProgramList) => void;
  readonly #ones = new Map<string, One>();

  /** `onActed`: something of that list is other than it was. */
  constructor(kit: Kit, port: ProgramsPort, line: SealedLine<ProgramsMessage>, onActed: (list: ProgramList) => void) {
    this.#onActed = onActed;
    this.#kit = kit;
    this.#port = port;
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      permission: 'change-programs',
      most: MOST_AT_ONCE,
      staleMs: PREPARED_WITH_CARE_MS + ACT_MS,
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, id, why) => line.send(seat, { type: 'refused', id, why }),
      onEnd: (actId) => this.#ones.delete(actId),
    });
  }

  prepare(from: Participant, { actId, act, target }: { actId: string; act: ProgramAct; target: string }): void {
    const lease = this.#underWay.begin(from, actId);
    if (!lease) return;
    const one: One = {
      ...{ from, act, target, lease, preparedAtMs: this.#kit.time.nowMs(), isBegun: false },
    };
    this.#ones.set(actId, one);
    this.#plan(actId, one, target).catch((error: unknown) => {
      if (!(error instanceof PartMissing) && this.#ones.get(actId) === one)
        this.#kit.log.warn({ why: String(error) }, 'what an act would hit could not be found out');
      const isGone = error instanceof PartMissing && error.why === 'not-there';
      if (this.#ones.get(actId) === one)
        this.#underWay.refuse(from.seat, actId, isGone ? 'it is not there any longer' : 'it could not be looked at');
    });
  }

  /** `signature`: the technician's, for the part that holds administrator rights. */
  act(from: Participant, actId: string, signature?: string): void {
    const one = this.#ones.get(actId);
    if (!one) return this.#underWay.refuse(from.seat, actId, 'it was looked at too long ago');
    if (!one.plan || one.isBegun || !this.#underWay.heard(from, actId)) return;
    const { time, isAsking } = this.#kit;
    if (isAsking) return this.#underWay.refuse(from.seat, actId, ASKING);
    const mostMs = this.#isCareful(one.act) ? PREPARED_WITH_CARE_MS : PREPARED_MS;
    if (time.nowMs() - one.preparedAtMs > mostMs)
      return this.#underWay.refuse(from.seat, actId, 'it was looked at too long ago');
    if (!this.#isCleared(actId, one, one.plan)) return this.#underWay.refuse(from.seat, actId, NEEDS_LEAVE);
    one.isBegun = true;
    const { name } = one.plan;
    // The person here hears of it as it begins.
    this.#kit.report((fact) => ({
      ...{ type: 'programs/tellBegun', actId, act: one.act, participantId: from.id, fact },
      name: name.slice(0, MAX_NAME_CHARS),
    }));
    this.#carryOut(actId, one, one.plan, signature).catch((error: unknown) =>
      this.#kit.log.error({ why: String(error) }, 'what became of an act could not be told'),
    );
  }

  /** Whoever thought better of it. What is being done goes on. */
  drop(from: Participant, actId: string): void {
    const one = this.#ones.get(actId);
    if (one?.from.seat === from.seat && !one.isBegun) this.#underWay.end(actId);
  }

  /** What is done without leave any longer ends. */
  check(): void {
    this.#underWay.check();
  }
  close(): void {
    this.#underWay.close();
  }

  async #plan(actId: string, one: One, target: string): Promise<void> {
    const limit = timeLimit(this.#kit.time, PREPARE_MS, this.#underWay.signalOf(actId));
    try {
      const plan = await this.#port.plan(one.act, target, limit.signal);
      if (this.#ones.get(actId) !== one) return;
      const whyNot = this.#whyNever(plan, one.act);
      if (whyNot !== undefined) return this.#underWay.refuse(one.from.seat, actId, whyNot);
      one.plan = plan;
      const named = (names: readonly string[]) =>
        names.slice(0, MAX_HANGING).map((name) => name.slice(0, MAX_NAME_CHARS));
      this.#tell(one, {
        ...{ type: 'prepared', actId, name: plan.name.slice(0, MAX_NAME_CHARS), hanging: named(plan.hanging) },
        ...{ hangingCount: plan.hanging.length, wakers: named(plan.wakers) },
        ...(this.#isCareful(one.act) ? { isCareful: true } : {}),
      });
    } finally {
      limit.release();
    }
  }

  /** Whether the device's label asks for care, and something may stop working by this act. */
  #isCareful(act: ProgramAct): boolean {
    return isOfService(act) && takesAway(act) && careHere(this.#kit) !== undefined;
  }
  #isCleared(actId: string, { act, from }: One, { name }: ActPlan): boolean {
    const asked = { actId, act: riskNameOf(act), name: name.slice(0, MAX_NAME_CHARS), byId: from.id };
    return !this.#isCareful(act) || isCleared(this.#kit, asked);
  }

  #whyNever({ guard, name }: ActPlan, act: ProgramAct): string | undefined {
    if (careHere(this.#kit)?.isNever && this.#isCareful(act)) return NEVER_HERE;
    if (guard === 'ours') return 'it belongs to this session';
    if (guard === 'needed') return 'the computer or this session would stop with it';
    return isNamedIn(this.#kit.desk.untouchedPrograms, name) ? 'this desk never touches it' : undefined;
  }

  async #carryOut(actId: string, one: One, plan: ActPlan, signature: string | undefined): Promise<void> {
    const limit = timeLimit(this.#kit.time, ACT_MS, this.#underWay.signalOf(actId));
    const { signal } = limit;
    let ended: ActEnded;
    try {
      const whyNotSaved = await this.#saveBefore(one, plan);
      const may = () => one.lease.isRunning && this.#ones.get(actId) === one;
      ended = whyNotSaved ?? (await this.#do(actId, one, plan, signature)(may, signal));
    } catch (error) {
      if (!signal.aborted) this.#kit.log.warn({ why: String(error) }, 'an act failed');
      const outcome = limit.isLate ? 'took-too-long' : signal.aborted ? 'broken-off' : 'failed';
      ended = { outcome, says: '' };
    } finally {
      limit.release();
    }
    const { outcome } = ended;
    this.#kit.report((fact) => ({ type: 'programs/tellEnded', actId, outcome, fact }));
    this.#tell(one, { type: 'acted', actId, outcome, says: ended.says.slice(0, MAX_SAYS_CHARS) });
    this.#onActed(isOfService(one.act) ? 'services' : 'processes');
    this.#underWay.end(actId);
  }

  /** A service of the computer by administrator rights, where they are raised; everything else as the person here. */
  #do(actId: string, { from, act, target }: One, plan: ActPlan, signature: string | undefined): ActPlan['act'] {
    const raised = isOfComputer(act, target) ? this.#kit.shared.raisedFor(from.signKey) : undefined;
    if (!raised) return (may, signal) => plan.act(may, signal);
    return (may, signal) => raised.service({ actId, act, target, signature }, plan.name, { may, signal });
  }

  /**
   * What services were like, where this technician may have that saved: then it is taken back in one step. Nothing is
   * changed when that failed.
   */
  async #saveBefore({ from, act }: One, { name, services }: ActPlan): Promise<ActEnded | undefined> {
    const touched = services.slice(0, MAX_POINT_SERVICES);
    const { before } = this.#kit.words.programs;
    // A restart changes no state that could be gone back to.
    if (!touched.length || !isKeyOf(before, act)) return undefined;
    try {
      await this.#kit.shared.makeSafePoint(from, before[act]({ name }), {
        paths: [],
        services: touched,
        hasPackages: false,
      });
      return undefined;
    } catch (error) {
      return { outcome: 'failed', says: error instanceof Error ? error.message : '' };
    }
  }

  #tell({ from, lease }: One, message: ProgramsMessage): void {
    const may = () => lease.isRunning;
    if (may()) this.#line.sendPlain(from.seat, encodeWords(message), may);
  }
}
