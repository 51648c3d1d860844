import { allPermissions, fitOf, hurdles, mayAsk, type Permission, type Policy, type PolicyFor } from '@porch/core';
import {
  countedOn,
  type BookingView,
  type CarefulActView,
  type DeviceView,
  type HandoverView,
  type KnownFaultView,
  type PorchView,
  type SessionView,
  type TicketView,
  type WaitingView,
} from '@porch/wire';
import type { PorchPart, Scope } from '../../module/changes.ts';
import { CarefulActDesk } from '../careful-acts/careful-act-desk.ts';
import type { BookingDesk } from '../bookings/booking-desk.ts';
import type { DeviceDesk } from '../devices/device-desk.ts';
import type { HandoverDesk } from '../handovers/handover-desk.ts';
import type { KnownFaultDesk } from '../known-faults/known-fault-desk.ts';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { Technician } from '../people/technician.ts';
import type { QueueDesk, WaitingNow } from '../queue/queue-desk.ts';
import type { StateNow, TechnicianStates } from '../queue/technician-states.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';

export interface PorchParts {
  readonly queue: QueueDesk;
  readonly states: TechnicianStates;
  readonly lists: SessionLists;
  readonly bookings: BookingDesk;
  readonly handovers: HandoverDesk;
  readonly knownFaults: KnownFaultDesk;
  readonly carefulActDesk: CarefulActDesk;
  readonly devices: DeviceDesk;
  readonly ticketLists: TicketLists;
  readonly outbox: Outbox;
  readonly gateway: MessageGateway;
  readonly policyFor: PolicyFor;
}

/**
 * How long what somebody reads about a waiting person stays as it is while nothing changes but the time. It is the same
 * object then, so that whoever was told it is not told again; what counts down in it is as it was when it was made.
 */
const FIT_STAYS_MS = 10_000;

interface Own {
  sessions: readonly SessionView[];
  bookings: BookingView[];
  handovers: HandoverView[];
  tickets: TicketView[];
  ticketTrouble: string | undefined;
  /** When the countdowns in them were read. */
  sessionsAtMs: number;
  handoversAtMs: number;
}
const newOwn = (): Own => ({
  ...{ sessions: [], bookings: [], handovers: [], tickets: [], ticketTrouble: undefined },
  ...{ sessionsAtMs: 0, handoversAtMs: 0 },
});

/** Somebody who waits, and the device that their ticket is about. */
interface WaitingAt extends WaitingNow {
  readonly device?: Pick<TicketView, 'asset' | 'assetLabel'>;
}

interface Fit {
  readonly entry: WaitingAt;
  readonly state: StateNow | undefined;
  readonly policy: Policy;
  readonly atMs: number;
  readonly view: WaitingView;
}

/**
 * The porch of everybody who looks at it: what is the same for all is read once, what is somebody's own for all of them
 * together, and only what a change is about.
 */
export class PorchBoard {
  readonly #parts: PorchParts;
  readonly #lookUp: (refs: readonly string[]) => void;
  #waiting: readonly WaitingAt[] = [];
  #states: ReadonlyMap<string, StateNow> = new Map();
  #knownFaults: KnownFaultView[] = [];
  #devices: DeviceView[] = [];
  #carefulActs: CarefulActView[] = [];
  #undelivered = 0;
  readonly #own = new Map<string, Own>();
  readonly #fits = new Map<string, Map<string, Fit>>();

  readonly #ways: PorchView['ways'];
  /** The same for as long as neither the rules nor the person change. */
  readonly #bundles = new WeakMap<Policy, PorchView['bundles']>();
  readonly #mayNot = new WeakMap<Policy, WeakMap<Technician, Permission[]>>();

  /** `lookUp` is told of tickets that nobody has seen yet; once they are known, a change says so. */
  constructor(parts: PorchParts, lookUp: (refs: readonly string[]) => void) {
    this.#parts = parts;
    this.#lookUp = lookUp;
    const { gateway } = parts;
    this.#ways = { hasMail: gateway.hasMail, hasTexts: gateway.hasTexts };
  }

  /** Reads what a change is about, for those who look. */
  async refresh({ parts, technicianIds }: Scope, readers: readonly Technician[]): Promise<void> {
    const isAbout = (part: PorchPart) => parts?.includes(part) ?? true;
    const theirs = technicianIds ? readers.filter(({ id }) => technicianIds.includes(id)) : readers;
    const ids = theirs.map(({ id }) => id);
    const { queue, states, knownFaults, carefulActDesk, devices, outbox, bookings, ticketLists } = this.#parts;
    await Promise.all([
      isAbout('waiting') &&
        queue.waitingNow().then((now) => {
          this.#waiting = keptAsItWas(this.#waiting, this.#withDevices(now), ({ view }) => view.id);
        }),
      isAbout('states') &&
        states.now().then((now) => {
          this.#states = new Map(
            keptAsItWas([...this.#states.values()], [...now.values()], ({ routed }) => routed.id).map((state) => [
              state.routed.id,
              state,
            ]),
          );
        }),
      isAbout('known-faults') && knownFaults.open().then((open) => (this.#knownFaults = open)),
      isAbout('careful-acts') && carefulActDesk.open().then((open) => (this.#carefulActs = open)),
      isAbout('devices') && devices.list().then((list) => (this.#devices = list)),
      isAbout('outbox') && outbox.undelivered().then((count) => (this.#undelivered = count)),
      isAbout('sessions') && ids.length && this.#readSessions(ids),
      isAbout('bookings') &&
        ids.length &&
        bookings.ofAll(ids).then((all) => this.#setOwn(ids, (own, id) => (own.bookings = all.get(id) ?? []))),
      isAbout('handovers') && ids.length && this.#readHandovers(ids),
      isAbout('tickets') &&
        Promise.all(
          theirs.map(async ({ id, email }) => {
            const { tickets, trouble } = await ticketLists.mine(email);
            this.#setOwn([id], (own) => Object.assign(own, { tickets, ticketTrouble: trouble }));
          }),
        ),
    ]);
  }

  /** Somebody looks anew: what counts down is told as it is then. */
  lookAnew(technicianId: string): void {
    this.#fits.delete(technicianId);
  }

  /** Whoever looks no longer is not read for. */
  forget(technicianId: string): void {
    this.#own.delete(technicianId);
    this.#fits.delete(technicianId);
  }

  viewOf(me: Technician): PorchView {
    const nowMs = Date.now();
    const own = this.#own.get(me.id) ?? newOwn();
    const state = this.#states.get(me.id);
    return {
      ways: this.#ways,
      bundles: this.#bundlesFor(me),
      me: this.#parts.states.stateAt(me.id, state, nowMs),
      mayNotAsk: this.#mayNotAsk(me),
      knownFaults: this.#knownFaults,
      bookings: own.bookings,
      devices: this.#devices,
      waiting: this.#waitingFor(me, state, nowMs),
      // What counts nothing down stays the same object.
      sessions: own.sessions.map((session) => (session.code ? countedOn(session, nowMs - own.sessionsAtMs) : session)),
      carefulActs: CarefulActDesk.forPerson(this.#carefulActs, me),
      tickets: own.tickets,
      handovers: countedOn(own.handovers, nowMs - own.handoversAtMs),
      ...(own.ticketTrouble ? { ticketTrouble: own.ticketTrouble } : {}),
      undelivered: this.#undelivered,
      nowMs,
    };
  }

  /** A session that ended because its booking was cancelled needs nobody any longer. */
  async #readSessions(ids: readonly string[]): Promise<void> {
    const { lists, bookings } = this.#parts;
    const all = await lists.openOfAll(ids);
    const ended = [...all.values()].flat().filter(({ phase }) => phase === 'ended');
    const cancelled = await bookings.cancelledOf(ended.map(({ id }) => id));
    const sessionsAtMs = Date.now();
    this.#setOwn(ids, (own, id) =>
      Object.assign(own, {
        sessions: (all.get(id) ?? []).filter((session) => !cancelled.has(session.id)),
        sessionsAtMs,
      }),
    );
  }

  #withDevices(waiting: readonly WaitingNow[]): WaitingAt[] {
    const { ticketLists } = this.#parts;
    const unseen: string[] = [];
    const at = waiting.map((entry): WaitingAt => {
      const { ticketRef } = entry.view;
      const ticket = ticketRef === undefined ? undefined : ticketLists.seen(ticketRef);
      if (ticketRef !== undefined && !ticket) unseen.push(ticketRef);
      if (!ticket?.asset) return entry;
      const { asset, assetLabel } = ticket;
      return { ...entry, device: { asset, ...(assetLabel ? { assetLabel } : {}) } };
    });
    if (unseen.length) this.#lookUp(unseen);
    return at;
  }

  async #readHandovers(ids: readonly string[]): Promise<void> {
    const all = await this.#parts.handovers.offeredToAny(ids);
    const handoversAtMs = Date.now();
    this.#setOwn(ids, (own, id) => Object.assign(own, { handovers: all.get(id) ?? [], handoversAtMs }));
  }

  #setOwn(ids: readonly string[], set: (own: Own, id: string) => void): void {
    for (const id of ids) {
      const own = this.#own.get(id) ?? newOwn();
      set(own, id);
      this.#own.set(id, own);
    }
  }

  #mayNotAsk(me: Technician): Permission[] {
    const policy = this.#parts.policyFor(me.team);
    const ofAll = this.#mayNot.get(policy) ?? new WeakMap<Technician, Permission[]>();
    this.#mayNot.set(policy, ofAll);
    const found = ofAll.get(me) ?? allPermissions.filter((p) => !mayAsk(policy.askLimits, me, p));
    ofAll.set(me, found);
    return found;
  }

  #bundlesFor(me: Technician): PorchView['bundles'] {
    const policy = this.#parts.policyFor(me.team);
    const found = this.#bundles.get(policy) ?? policy.bundles.map((b) => ({ ...b, permissions: [...b.permissions] }));
    this.#bundles.set(policy, found);
    return found;
  }

  #waitingFor(me: Technician, state: StateNow | undefined, nowMs: number): WaitingView[] {
    const policy = this.#parts.policyFor();
    const known = this.#fits.get(me.id) ?? new Map<string, Fit>();
    const fits = new Map(
      this.#waiting.map((entry): [string, Fit] => {
        const before = known.get(entry.view.id);
        const isAsItWas =
          before?.entry === entry &&
          before.state === state &&
          before.policy === policy &&
          nowMs - before.atMs < FIT_STAYS_MS;
        return [
          entry.view.id,
          isAsItWas ? before : { entry, state, policy, atMs: nowMs, view: this.#viewFor(entry, me, state, nowMs) },
        ];
      }),
    );
    this.#fits.set(me.id, fits);
    return [...fits.values()].map(({ view }) => view);
  }

  #viewFor(
    { view, offer, routed, device }: WaitingAt,
    me: Technician,
    state: StateNow | undefined,
    nowMs: number,
  ): WaitingView {
    // A trainee looks over shoulders; nobody is routed to them.
    const mine = state?.isRouted ? state.routed : undefined;
    return {
      ...view,
      ...device,
      ...(offer
        ? {
            offer: {
              technicianName: offer.technicianName,
              isMine: offer.technicianId === me.id,
              remainingMs: Math.max(0, offer.endsAtMs - nowMs),
            },
          }
        : {}),
      reasons: mine ? [...fitOf(routed, mine, nowMs).reasons] : [],
      hurdles: mine ? hurdles(routed, mine, this.#parts.policyFor().routing, nowMs) : [{ word: 'not-routed' }],
    };
  }
}

/** Things that say the same are the same: whoever compares them sees it at once. */
function keptAsItWas<T>(before: readonly T[], now: readonly T[], idOf: (thing: T) => string): T[] {
  const known = new Map(before.map((thing) => [idOf(thing), thing]));
  return now.map((thing) => {
    const old = known.get(idOf(thing));
    return old !== undefined && JSON.stringify(old) === JSON.stringify(thing) ? old : thing;
  });
}
