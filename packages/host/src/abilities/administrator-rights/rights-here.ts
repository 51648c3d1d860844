import type { SealedLine } from '@porch/client';
import {
  MAX_RIGHTS_CHARACTERS,
  minutesOf,
  RAISE_RISK,
  type Participant,
  type RightsFell,
  type RightsLeave,
  type RightsWay,
} from '@porch/core';
import { holderProofBytes, signBytes, type AdministratorRightsMessage } from '@porch/wire';
import { careHere, isCleared } from '../../care.ts';
import type { Lease } from '../../consent/held.ts';
import type { Kit, RaisedHere } from '../../kit.ts';
import { RightsRefused, type RaisedRights, type RightsPort } from '../../ports/rights-port.ts';
import { ASKING, NEEDS_LEAVE, NEVER_HERE } from '../../reasons.ts';
import { timeLimit } from '../../time-limit.ts';
import { UnderWay } from '../../under-way.ts';
import { askPassword, MOST_RIGHTS_MS, rightsMsOf } from './password-question.ts';

/** The ledger may come a moment after the message. */
const LEAVE_MS = 5_000;
/** While a window asks for a password nothing is pressed from the desk: nobody waits for it for ever. */
const TYPE_MS = 180_000;
const NO_LEAVE = 'the desk has not given leave for this computer';

interface Raise {
  readonly from: Participant;
  readonly lease: Lease;
  readonly way: RightsWay;
  /** What they are for. */
  readonly what: string;
  rights?: RaisedRights;
  endTimer(): void;
  /** Why it ends, once somebody said so. */
  why: RightsFell;
}

/** Administrator rights at this computer: raised once for each technician, each use told, and given back whatever happens. */
export class RightsHere {
  readonly #kit: Kit;
  readonly #port: RightsPort;
  readonly #line: SealedLine<AdministratorRightsMessage>;
  readonly #underWay: UnderWay;
  readonly #raises = new Map<string, Raise>();
  /** Who waits for the ledger to say what the desk gave leave for. */
  readonly #waiting = new Map<string, (leave: RightsLeave | undefined) => void>();
  /** What is being raised or given back, so that the end comes after it. */
  readonly #working = new Set<Promise<void>>();

  constructor(kit: Kit, port: RightsPort, line: SealedLine<AdministratorRightsMessage>) {
    this.#kit = kit;
    this.#port = port;
    this.#line = line;
    this.#underWay = new UnderWay(kit, {
      ...{ permission: 'raise-rights', most: 1, staleMs: MOST_RIGHTS_MS },
      sendPlain: (seat, plain, may) => line.sendPlain(seat, plain, may),
      sayRefused: (seat, id, why) => line.send(seat, { type: 'refused', id, why }),
      onEnd: (id) => this.#fall(id),
    });
  }

  /** Who has them now; undefined while nobody does. */
  get who(): string | undefined {
    const raised = [...this.#raises.values()].find(({ rights }) => rights);
    return raised && (raised.from.name ?? this.#kit.words.kernel.technician);
  }

  tellWays(from: Participant, id: string): void {
    const lease = this.#kit.held.during('raise-rights', from.signKey);
    this.#follow(
      this.#port.possible(lease.signal).then(({ password, installed }) => {
        if (!lease.isRunning) return;
        const isCareful = careHere(this.#kit) ? ({ isCareful: true } as const) : {};
        this.#line.send(from.seat, {
          type: 'possible',
          id,
          password,
          ...(installed ? { installed } : {}),
          ...isCareful,
        });
      }),
      'how rights could be raised was not found out',
    );
  }

  raise(
    from: Participant,
    { id, way, what }: { readonly id: string; readonly way: RightsWay; readonly what: string },
  ): void {
    if (this.#isRaisedFor(from)) return this.#refuse(from, id, 'administrator rights are raised already');
    const whyNot = this.#whyNot(from, id, what);
    if (whyNot !== undefined) return this.#refuse(from, id, whyNot);
    const lease = this.#underWay.begin(from, id);
    if (!lease) return;
    const raise: Raise = { from, lease, way, what, why: 'not-allowed', endTimer: () => undefined };
    this.#raises.set(id, raise);
    this.#follow(this.#carryOut(id, raise), 'administrator rights could not be raised');
  }

  lower(from: Participant, id: string): void {
    const raise = this.#raises.get(id);
    if (raise?.from.seat !== from.seat) return;
    raise.why = 'given-back';
    this.#underWay.end(id);
  }

  /** What somebody may do by them now; undefined while they have none. */
  raisedFor(signKey: string): RaisedHere | undefined {
    for (const [raiseId, { from, lease, rights }] of this.#raises)
      // What rests for a while goes on afterwards.
      if (rights && from.signKey === signKey && lease.state.name !== 'over')
        return {
          run: (order, what, { may, print, signal }) => {
            if (!lease.isRunning) return Promise.resolve({ code: undefined, mayGoOn: false });
            this.#used(raiseId, what);
            return rights.run(order, () => lease.isRunning && may(), print, signal);
          },
          service: (order, what, { may, signal }) => {
            if (!lease.isRunning) return Promise.resolve({ outcome: 'broken-off', says: '' });
            this.#used(raiseId, what);
            return rights.service(order, () => lease.isRunning && may(), signal);
          },
          putBack: (order, what, { may, signal }) => {
            if (!lease.isRunning) return Promise.resolve({ code: undefined, mayGoOn: false });
            this.#used(raiseId, what);
            return rights.putBack(order, () => lease.isRunning && may(), signal);
          },
          signInOnce: async (order, what, { may, signal }) => {
            if (!lease.isRunning) throw new RightsRefused(NO_LEAVE);
            this.#used(raiseId, what);
            await rights.signInOnce(order, () => lease.isRunning && may(), signal);
          },
        };
    return undefined;
  }

  #used(raiseId: string, what: string): void {
    this.#kit.report((fact) => ({
      ...{ type: 'administrator-rights/tellUsed', raiseId, what: what.slice(0, MAX_RIGHTS_CHARACTERS), fact },
    }));
  }

  check(): void {
    this.#underWay.check();
    const { state } = this.#kit.connection;
    for (const [id, tell] of [...this.#waiting]) {
      const leave = state.slices['administrator-rights'][id]?.leave;
      if (leave) tell(leave);
    }
  }

  async close(): Promise<void> {
    this.#underWay.close();
    while (this.#working.size) await Promise.all(this.#working);
  }

  #isRaisedFor({ signKey }: Participant): boolean {
    return [...this.#raises.values()].some(({ from }) => from.signKey === signKey);
  }
  #whyNot(from: Participant, actId: string, name: string): string | undefined {
    if (this.#kit.isAsking) return ASKING;
    const care = careHere(this.#kit);
    if (care?.isNever) return NEVER_HERE;
    const isMissing = care !== undefined && !isCleared(this.#kit, { actId, act: RAISE_RISK, name, byId: from.id });
    return isMissing ? NEEDS_LEAVE : undefined;
  }
  #refuse({ seat }: Participant, id: string, why: string): void {
    if (!this.#raises.has(id)) this.#underWay.refuse(seat, id, why);
  }

  async #carryOut(id: string, raise: Raise): Promise<void> {
    const { from } = raise;
    const signal = this.#underWay.signalOf(id);
    try {
      const rights = await (raise.way === 'desk' ? this.#byLeave(id, raise, signal) : this.#byPassword(raise, signal));
      if (this.#raises.get(id) !== raise || !raise.lease.isRunning) {
        // Taken back meanwhile: nobody ever had them.
        rights.lower();
        await rights.gone;
        this.#underWay.end(id);
        return;
      }
      this.#has(id, raise, rights);
    } catch (error) {
      const isOurs = error instanceof RightsRefused;
      if (!isOurs && !signal.aborted)
        this.#kit.log.warn({ why: String(error) }, 'administrator rights were not raised');
      if (this.#raises.get(id) !== raise) return;
      const why = isOurs ? error.why : 'not-there';
      this.#kit.report((fact) => ({
        ...{ type: 'administrator-rights/tellNotRaised', raiseId: id, participantId: from.id, why, fact },
      }));
      this.#underWay.refuse(from.seat, id, isOurs ? error.message : 'it failed at the computer');
    }
  }

  #has(id: string, raise: Raise, rights: RaisedRights): void {
    const { from, way, what } = raise;
    const { time, connection } = this.#kit;
    raise.rights = rights;
    const ms = this.#msOf(id, way);
    raise.endTimer = time.after(ms, () => {
      raise.why = 'time-over';
      this.#underWay.end(id);
    });
    const untilMs = Math.round(connection.serviceNowMs + ms);
    this.#kit.report((fact) => ({
      ...{ type: 'administrator-rights/tellRaised', raiseId: id, participantId: from.id, way, fact },
      ...{ minutes: minutesOf(ms), untilMs, what },
    }));
    this.#line.send(from.seat, { type: 'raised', id });
    this.#follow(
      rights.gone.then(({ mayGoOn }) => {
        if (raise.why === 'not-allowed' && this.#raises.get(id) === raise) raise.why = 'gone';
        this.#fell(id, raise, mayGoOn);
        this.#underWay.end(id);
      }),
      'how administrator rights fell back was not heard',
    );
    this.#kit.changed();
  }

  /** How long they last: as the desk says, and no longer than its leave. */
  #msOf(id: string, way: RightsWay): number {
    const { connection, desk } = this.#kit;
    const ms = rightsMsOf(desk);
    const { leave } = connection.state.slices['administrator-rights'][id] ?? {};
    return way === 'desk' && leave ? Math.max(1, Math.min(ms, leave.untilMs - connection.serviceNowMs)) : ms;
  }

  /** Not wanted or not allowed any longer. */
  #fall(id: string): void {
    const raise = this.#raises.get(id);
    if (!raise) return;
    this.#raises.delete(id);
    this.#waiting.get(id)?.(undefined);
    raise.endTimer();
    // Whoever waits for them to be gone tells it.
    raise.rights?.lower();
    this.#kit.changed();
  }
  #fell(raiseId: string, { why }: Raise, mayGoOn: boolean): void {
    this.#kit.report((fact) => ({
      ...{ type: 'administrator-rights/tellFell', raiseId, why, mayGoOn: mayGoOn || undefined, fact },
    }));
  }

  async #byLeave(id: string, { from }: Raise, signal: AbortSignal): Promise<RaisedRights> {
    const leave = await this.#leaveFor(id, from);
    if (!leave) throw new RightsRefused(NO_LEAVE);
    const { keys, sessionId } = this.#kit.connection;
    return this.#port.byLeave(
      { ...leave, raiseId: id, sessionId, technicianKey: from.signKey },
      { key: keys.signKey, prove: (nonce) => signBytes(keys, holderProofBytes(nonce, id)) },
      signal,
    );
  }
  #leaveFor(id: string, from: Participant): Promise<RightsLeave | undefined> {
    const known = this.#kit.connection.state.slices['administrator-rights'][id];
    if (known) return Promise.resolve(known.byId === from.id ? known.leave : undefined);
    return new Promise((resolve) => {
      const tell = (leave: RightsLeave | undefined) => {
        endWaiting();
        this.#waiting.delete(id);
        const isTheirs = this.#kit.connection.state.slices['administrator-rights'][id]?.byId === from.id;
        resolve(isTheirs ? leave : undefined);
      };
      const endWaiting = this.#kit.time.after(LEAVE_MS, () => tell(undefined));
      this.#waiting.set(id, tell);
    });
  }

  async #byPassword(raise: Raise, signal: AbortSignal): Promise<RaisedRights> {
    const limit = timeLimit(this.#kit.time, TYPE_MS, signal);
    try {
      return await this.#port.byPassword((wanted) => askPassword(this.#kit, raise, wanted, limit.signal), limit.signal);
    } catch (error) {
      throw limit.isLate ? new RightsRefused('no password was typed', 'not-typed') : error;
    } finally {
      limit.release();
    }
  }
  #follow(work: Promise<void>, complaint: string): void {
    const done = work
      .catch((error: unknown) => this.#kit.log.error({ why: String(error) }, complaint))
      .finally(() => this.#working.delete(done));
    this.#working.add(done);
  }
}
