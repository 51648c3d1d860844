import type { Policy, PolicyFor, RoutedTechnician } from '@porch/core';
import type { MyState } from '@porch/wire';
import { In, type DataSource, type EntityManager } from 'typeorm';
import type { OpenConsoles } from '../people/open-consoles.ts';
import type { Technicians } from '../people/technician.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import { QueueEntryEntity, TechnicianStateEntity } from './queue-tables.ts';

/** A code or link that nobody used for so long no longer holds a place of its technician. */
const UNUSED_MINUTES = 15;

interface Load {
  readonly screens: number;
  readonly chats: number;
}
const NO_LOAD: Load = { screens: 0, chats: 0 };

/** Somebody who works here, as they are now. */
export interface StateNow {
  readonly routed: RoutedTechnician;
  readonly isAway: boolean;
  readonly isRouted: boolean;
}

export interface TechnicianStatesParts {
  readonly records: DataSource;
  readonly policyFor: PolicyFor;
  readonly technicians: Technicians;
  readonly consoles: OpenConsoles;
  readonly lists: SessionLists;
}

/** Who is here, how much each has open, and who is left alone for a while. */
export class TechnicianStates {
  readonly #parts: TechnicianStatesParts;

  constructor(parts: TechnicianStatesParts) {
    this.#parts = parts;
  }

  async set(id: string, { isAway, minutes }: { isAway: boolean; minutes?: number | undefined }): Promise<void> {
    const hereUntil = minutes === undefined ? null : new Date(Date.now() + minutes * 60_000);
    await this.#upsert(this.#parts.records.manager, id, {
      isAway,
      hereUntil,
      ...(isAway ? {} : { wrapUpUntil: null }),
    });
  }
  /** Did not answer an offer: probably not at the desk. */
  missedOffer = (tx: EntityManager, id: string): Promise<void> => this.#upsert(tx, id, { isAway: true });
  given = (tx: EntityManager, id: string, nowMs: number): Promise<void> =>
    this.#upsert(tx, id, { lastGivenAt: new Date(nowMs) });
  wrapUp = (tx: EntityManager, id: string, nowMs: number): Promise<void> =>
    this.#upsert(tx, id, { wrapUpUntil: new Date(nowMs + this.#policyOf(id).wrapUpMs) });

  /** Everybody who works here, as they are now. */
  async now(tx: EntityManager = this.#parts.records.manager): Promise<ReadonlyMap<string, StateNow>> {
    const { technicians, consoles, policyFor } = this.#parts;
    // In this order: a session that ends between the two reads is still open in the first or wraps up in the second.
    // The other way round its technician would be free for that moment.
    const loads = await this.#loads(tx);
    const states = new Map((await tx.getRepository(TechnicianStateEntity).find()).map((s) => [s.technicianId, s]));
    const nowMs = Date.now();
    return new Map(
      [...technicians.values()].map((t): [string, StateNow] => {
        const state = states.get(t.id);
        const isAway = state?.isAway ?? false;
        const routed: RoutedTechnician = {
          id: t.id,
          languages: t.languages,
          topics: t.topics,
          team: t.team,
          skills: t.skills,
          isHere: !isAway && (consoles.has(t.id) || (state?.hereUntil?.getTime() ?? 0) > nowMs),
          wrapUpUntilMs: state?.wrapUpUntil?.getTime() ?? 0,
          ...(loads.get(t.id) ?? NO_LOAD),
          limits: policyFor(t.team).limits,
          lastGivenMs: state?.lastGivenAt?.getTime() ?? 0,
        };
        // A trainee looks over shoulders; nobody is routed to them.
        return [t.id, { routed, isAway, isRouted: t.role !== 'trainee' && t.disabledAt === null }];
      }),
    );
  }

  /** Those to whom somebody may be routed. */
  async all(tx: EntityManager = this.#parts.records.manager): Promise<RoutedTechnician[]> {
    return [...(await this.now(tx)).values()].filter(({ isRouted }) => isRouted).map(({ routed }) => routed);
  }

  async mine(id: string): Promise<MyState> {
    return this.stateAt(id, (await this.now()).get(id), Date.now());
  }

  /** What somebody reads of themselves at that moment. */
  stateAt(id: string, state: StateNow | undefined, nowMs: number): MyState {
    const { screens, chats, wrapUpUntilMs } = state?.routed ?? { ...NO_LOAD, wrapUpUntilMs: 0 };
    return {
      isAway: state?.isAway ?? false,
      wrapUpMs: Math.max(0, wrapUpUntilMs - nowMs),
      screens,
      chats,
      limits: this.#policyOf(id).limits,
    };
  }

  #policyOf(id: string): Policy {
    const { policyFor, technicians } = this.#parts;
    return policyFor(technicians.get(id)?.team);
  }

  async #loads(tx: EntityManager): Promise<ReadonlyMap<string, Load>> {
    const work = await this.#parts.lists.underWay(UNUSED_MINUTES, tx);
    const sessionIds = work.map(({ sessionId }) => sessionId);
    const entries = work.length
      ? await tx.getRepository(QueueEntryEntity).find({
          where: { sessionId: In(sessionIds) },
          select: { id: true, sessionId: true, wants: true },
        })
      : [];
    const chats = new Set(entries.filter(({ wants }) => wants === 'chat').map(({ sessionId }) => sessionId));
    const loads = new Map<string, Load>();
    for (const { sessionId, technicianId, hasGrants } of work) {
      const { screens, chats: chatting } = loads.get(technicianId) ?? NO_LOAD;
      // A chat in which something was allowed is a chat no longer.
      const isChat = chats.has(sessionId) && !hasGrants;
      loads.set(technicianId, isChat ? { screens, chats: chatting + 1 } : { screens: screens + 1, chats: chatting });
    }
    return loads;
  }

  async #upsert(
    tx: EntityManager,
    technicianId: string,
    change: Partial<{ isAway: boolean; hereUntil: Date | null; wrapUpUntil: Date | null; lastGivenAt: Date }>,
  ): Promise<void> {
    const states = tx.getRepository(TechnicianStateEntity);
    await states
      .createQueryBuilder()
      .insert()
      .values({ technicianId, isAway: false, hereUntil: null, wrapUpUntil: null, lastGivenAt: null })
      .orIgnore()
      .execute();
    await states.update({ technicianId }, change);
  }
}
