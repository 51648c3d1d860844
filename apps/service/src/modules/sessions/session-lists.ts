import { AppError, type DeviceVisitView, type SessionPage, type SessionSearch, type SessionView } from '@porch/wire';
import { In, type DataSource, type EntityManager } from 'typeorm';
import type { Additions } from '../../module/added.ts';
import { grouped } from '../../module/grouped.ts';
import type { Technician } from '../people/technician.ts';
import type { SessionFinder } from './session-finder.ts';
import { SessionEntity, type SessionRow } from './session-tables.ts';

const MAX_LISTED_SESSIONS = 100;
const MAX_LISTED_VISITS = 100;
/** Sessions looked at in one round, of those that nobody is in. */
const MAX_ABANDONED_AT_ONCE = 50;

/** One session that takes a place of its technician, or may soon. */
export interface WorkUnderWay {
  readonly sessionId: string;
  readonly technicianId: string;
  /** Whether anything was ever allowed in it: then it is more than a chat. */
  readonly hasGrants: boolean;
}

export interface SessionListsParts {
  readonly records: DataSource;
  readonly finder: SessionFinder;
  readonly additions: Pick<Additions, 'beside'>;
}

/** Sessions in lists, read from what is written beside their ledgers. */
export class SessionLists {
  readonly #parts: SessionListsParts;

  constructor(parts: SessionListsParts) {
    this.#parts = parts;
  }

  /** Those that this technician may read and that fit, a page of them. Throws CURSOR_UNKNOWN. */
  async find(me: Technician, search: SessionSearch): Promise<SessionPage> {
    const { ids, next } = await this.#parts.finder.find(me, search);
    return { items: await this.viewsOf(ids), ...(next ? { next } : {}) };
  }

  /** Which of these somebody may read. */
  readable = (me: Technician, ids: readonly string[]): Promise<ReadonlySet<string>> =>
    this.#parts.finder.readable(me, ids);

  /** In this order; what is none is left out. */
  async viewsOf(ids: readonly string[]): Promise<SessionView[]> {
    const rows = ids.length ? await this.#sessions.findBy({ id: In([...ids]) }) : [];
    return this.views(ids.flatMap((id) => rows.find((row) => row.id === id) ?? []));
  }

  /** What each of these technicians has prepared and under way, newest first. */
  async openOfAll(technicianIds: readonly string[]): Promise<ReadonlyMap<string, SessionView[]>> {
    const rows = await this.#sessions
      .createQueryBuilder('s')
      .where(
        `s."technician_id" = ANY(:technicianIds) AND s.phase <> 'logged' AND s."changed_at" > clock_timestamp() - interval '2 days'`,
        { technicianIds },
      )
      .orderBy('s.prepared_at', 'DESC')
      .limit(MAX_LISTED_SESSIONS * technicianIds.length)
      .getMany();
    return grouped(technicianIds, await this.views(rows), MAX_LISTED_SESSIONS);
  }

  /** Throws SESSION_NOT_FOUND. */
  async view(id: string): Promise<SessionView> {
    const row = await this.#sessions.findOneBy({ id });
    const [view] = row ? await this.views([row]) : [];
    if (!view) throw new AppError('SESSION_NOT_FOUND');
    return view;
  }

  /** Whose it is; undefined when there is none. */
  async ownerOf(id: string): Promise<string | undefined> {
    return (await this.#sessions.findOneBy({ id }))?.technicianId;
  }

  /** Sessions whose handover is offered to one of these technicians, and to whom. */
  async offeredTo(technicianIds: readonly string[]): Promise<{ id: string; technicianId: string }[]> {
    const rows = await this.#sessions.find({
      where: { handoverTo: In([...technicianIds]) },
      select: { id: true, handoverTo: true },
    });
    return rows.map(({ id, handoverTo }) => ({ id, technicianId: handoverTo ?? '' }));
  }

  /** Of these, one that is prepared and stands on nothing. */
  async unusedPlain(ids: readonly string[]): Promise<string | undefined> {
    if (!ids.length) return undefined;
    const row = await this.#sessions
      .createQueryBuilder('s')
      .where(`s.id IN (:...ids) AND s.phase = 'prepared' AND s.behind = 'nothing' AND s."ticket_ref" IS NULL`, { ids })
      .getOne();
    return row?.id;
  }

  /** What takes places: everything under way, and what was prepared for somebody waiting within so many minutes. */
  async underWay(
    preparedWithinMinutes: number,
    tx: EntityManager = this.#parts.records.manager,
  ): Promise<WorkUnderWay[]> {
    const rows = await tx.query<{ id: string; technician_id: string; has_grants: boolean }[]>(
      `SELECT "id", "technician_id", "has_grants" FROM "session"
        WHERE "phase" IN ('joining', 'live')
           OR ("phase" = 'prepared' AND "behind" = 'queue-entry' AND "changed_at" > clock_timestamp() - make_interval(mins => $1))`,
      [preparedWithinMinutes],
    );
    return rows.map((row) => ({
      sessionId: row.id,
      technicianId: row.technician_id,
      hasGrants: row.has_grants,
    }));
  }

  async countUnderWay(): Promise<number> {
    const [row] = await this.#parts.records.query<{ n: string }[]>(
      `SELECT count(*) AS n FROM "session" WHERE "phase" IN ('joining', 'live')`,
    );
    return Number(row?.n ?? 0);
  }

  /** How long the last ones took. */
  async lastMinutes(most: number): Promise<number[]> {
    const rows = await this.#parts.records.query<{ minutes: number }[]>(
      `SELECT "minutes" FROM "session" WHERE "phase" IN ('ended', 'logged') AND "minutes" > 0 ORDER BY "changed_at" DESC LIMIT $1`,
      [most],
    );
    return rows.map(({ minutes }) => minutes);
  }

  /** Every visit to a device, newest first. */
  async ofDevice(deviceId: string): Promise<DeviceVisitView[]> {
    const rows = await this.#sessions.find({
      where: { deviceId },
      order: { preparedAt: 'DESC' },
      take: MAX_LISTED_VISITS,
    });
    return rows.map((row) => ({
      sessionId: row.id,
      atMs: row.preparedAt.getTime(),
      technicianName: row.technicianName,
      purpose: row.purpose,
      ...(row.outcome ? { outcome: row.outcome as NonNullable<DeviceVisitView['outcome']> } : {}),
    }));
  }

  async lastOfDevices(
    deviceIds: readonly string[],
  ): Promise<ReadonlyMap<string, { readonly atMs: number; readonly technicianName: string }>> {
    if (!deviceIds.length) return new Map();
    const rows = await this.#parts.records.query<{ id: string; at: Date; name: string }[]>(
      `SELECT DISTINCT ON ("device_id") "device_id" AS id, "prepared_at" AS at, "technician_name" AS name FROM "session" WHERE "device_id" = ANY($1) ORDER BY "device_id", "prepared_at" DESC`,
      [deviceIds],
    );
    return new Map(rows.map(({ id, at, name }) => [id, { atMs: at.getTime(), technicianName: name }]));
  }

  /** Sessions under way that nobody may be in: some say that people are there, some have not changed for so long. */
  async maybeAbandoned(afterMs: number): Promise<{ id: string; isOld: boolean }[]> {
    const rows = await this.#parts.records.query<{ id: string; is_old: boolean }[]>(
      `SELECT "id", "changed_at" < clock_timestamp() - make_interval(secs => $1) AS is_old FROM "session"
        WHERE "phase" IN ('joining', 'live') AND ("present" > 0 OR "changed_at" < clock_timestamp() - make_interval(secs => $1))
        ORDER BY "changed_at" LIMIT $2`,
      [afterMs / 1000, MAX_ABANDONED_AT_ONCE],
    );
    return rows.map(({ id, is_old: isOld }) => ({ id, isOld }));
  }

  async views(rows: readonly SessionRow[]): Promise<SessionView[]> {
    if (!rows.length) return [];
    const beside = await this.#parts.additions.beside(rows.map((row) => row.id));
    return rows.map((row) => ({
      id: row.id,
      phase: row.phase,
      ...(row.ticketRef ? { ticketRef: row.ticketRef } : {}),
      purpose: row.purpose,
      ...(row.customerName ? { customerName: row.customerName } : {}),
      technicianId: row.technicianId,
      technicianName: row.technicianName,
      behind: row.behind,
      ...(row.deviceId ? { deviceId: row.deviceId } : {}),
      ...(row.outcome ? { outcome: row.outcome as NonNullable<SessionView['outcome']> } : {}),
      minutes: row.minutes,
      preparedAtMs: row.preparedAt.getTime(),
      changedAtMs: row.changedAt.getTime(),
      lastSeq: row.seq,
      invitations: [],
      undelivered: 0,
      ...beside.get(row.id),
    }));
  }

  get #sessions() {
    return this.#parts.records.getRepository(SessionEntity);
  }
}
