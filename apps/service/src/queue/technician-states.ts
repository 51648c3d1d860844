import type { Policy, RoutedTechnician } from '@porch/core';
import type { MyState } from '@porch/wire';
import type { DataSource, EntityManager } from 'typeorm';
import { TechnicianStateEntity, type TechnicianRow } from '../db/entities.ts';

/** A code or link that nobody used for so long no longer holds a place of its technician. */
const UNUSED_MINUTES = 15;

interface Load {
  readonly screens: number;
  readonly chats: number;
}

/** Who is here, how much each has open, and who is left alone for a while. */
export class TechnicianStates {
  readonly #records: DataSource;
  readonly #policy: Policy;
  readonly #technicians: ReadonlyMap<string, TechnicianRow>;
  /** How many consoles each technician has open. */
  readonly #consoles = new Map<string, number>();

  constructor(records: DataSource, policy: Policy, technicians: ReadonlyMap<string, TechnicianRow>) {
    this.#records = records;
    this.#policy = policy;
    this.#technicians = technicians;
  }

  /** Hands back what says that the console is gone. */
  consoleOpened(id: string): () => void {
    this.#consoles.set(id, (this.#consoles.get(id) ?? 0) + 1);
    return () => this.#consoles.set(id, (this.#consoles.get(id) ?? 1) - 1);
  }
  hasConsole = (id: string): boolean => (this.#consoles.get(id) ?? 0) > 0;

  async set(id: string, { isAway, minutes }: { isAway: boolean; minutes?: number | undefined }): Promise<void> {
    const hereUntil = minutes === undefined ? null : new Date(Date.now() + minutes * 60_000);
    await this.#upsert(this.#records.manager, id, { isAway, hereUntil, ...(isAway ? {} : { wrapUpUntil: null }) });
  }
  /** Did not answer an offer: probably not at the desk. */
  missedOffer = (tx: EntityManager, id: string): Promise<void> => this.#upsert(tx, id, { isAway: true });
  given = (tx: EntityManager, id: string, nowMs: number): Promise<void> =>
    this.#upsert(tx, id, { lastGivenAt: new Date(nowMs) });
  wrapUp = (tx: EntityManager, id: string, nowMs: number): Promise<void> =>
    this.#upsert(tx, id, { wrapUpUntil: new Date(nowMs + this.#policy.wrapUpMs) });

  async all(tx: EntityManager = this.#records.manager): Promise<RoutedTechnician[]> {
    // In this order: a session that ends between the two reads is still open in the first or wraps up in the second.
    // The other way round its technician would be free for that moment.
    const loads = await this.#loads(tx);
    const states = await tx.getRepository(TechnicianStateEntity).find();
    const nowMs = Date.now();
    // A trainee looks over shoulders; nobody is routed to them.
    return [...this.#technicians.values()]
      .filter((t) => t.role !== 'trainee' && t.disabledAt === null)
      .map((t) => {
        const state = states.find((s) => s.technicianId === t.id);
        return {
          id: t.id,
          languages: t.languages,
          topics: t.topics,
          team: t.team,
          skills: t.skills,
          isHere: !state?.isAway && (this.hasConsole(t.id) || (state?.hereUntil?.getTime() ?? 0) > nowMs),
          wrapUpUntilMs: state?.wrapUpUntil?.getTime() ?? 0,
          ...(loads.get(t.id) ?? { screens: 0, chats: 0 }),
          limits: this.#policy.limits,
          lastGivenMs: state?.lastGivenAt?.getTime() ?? 0,
        };
      });
  }

  async mine(id: string): Promise<MyState> {
    const state = await this.#records.getRepository(TechnicianStateEntity).findOneBy({ technicianId: id });
    const load = (await this.#loads(this.#records.manager)).get(id) ?? { screens: 0, chats: 0 };
    return {
      isAway: state?.isAway ?? false,
      wrapUpMs: Math.max(0, (state?.wrapUpUntil?.getTime() ?? 0) - Date.now()),
      ...load,
      limits: this.#policy.limits,
    };
  }

  async #loads(tx: EntityManager): Promise<Map<string, Load>> {
    const rows = await tx.query<{ id: string; wants: 'screen' | 'chat'; n: string }[]>(
      // A chat in which something was allowed is a chat no longer.
      `SELECT s."technician_id" AS id, CASE WHEN q."wants" = 'chat' AND NOT s."has_grants" THEN 'chat' ELSE 'screen' END AS wants, count(*) AS n
         FROM "session" s LEFT JOIN "queue_entry" q ON q."session_id" = s."id"
        WHERE s."phase" IN ('joining', 'live')
           OR (s."phase" = 'prepared' AND q."id" IS NOT NULL AND s."changed_at" > clock_timestamp() - make_interval(mins => $1))
        GROUP BY 1, 2`,
      [UNUSED_MINUTES],
    );
    const loads = new Map<string, Load>();
    for (const { id, wants, n } of rows) {
      const before = loads.get(id) ?? { screens: 0, chats: 0 };
      loads.set(id, wants === 'screen' ? { ...before, screens: Number(n) } : { ...before, chats: Number(n) });
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
