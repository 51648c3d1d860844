import type { DataSource } from 'typeorm';
import type { ParcelKind } from '../../module/parcels.ts';
import { OutboxEntity } from './outbox-table.ts';

const MAX_LISTED = 200;

/** A parcel that has not arrived, and why not. */
export interface StuckParcel {
  readonly id: string;
  readonly kind: ParcelKind;
  readonly sessionId: string;
  readonly attempts: number;
  readonly why: string;
  /** Nobody tries any longer. */
  readonly givenUpAtMs?: number;
  readonly nextTryAtMs?: number;
}

/** Those that have not arrived and were tried, given up ones first, the last tried first within each. */
export async function stuckParcels(records: DataSource): Promise<StuckParcel[]> {
  const rows = await records
    .getRepository(OutboxEntity)
    .createQueryBuilder('o')
    .where('o."delivered_at" IS NULL AND o.attempts > 0 AND o."last_error" IS NOT NULL')
    .orderBy('o."given_up_at" IS NULL')
    .addOrderBy('o."next_at"', 'DESC')
    .limit(MAX_LISTED)
    .getMany();
  return rows.map((row) => ({
    id: row.id,
    kind: row.kind,
    sessionId: row.sessionId,
    attempts: row.attempts,
    why: row.lastError ?? '',
    ...(row.givenUpAt ? { givenUpAtMs: row.givenUpAt.getTime() } : { nextTryAtMs: row.nextAt.getTime() }),
  }));
}

/** Tried again at once, and as often as a new one. False when there is none such that has not arrived. */
export async function sendAgain(records: DataSource, id: string): Promise<boolean> {
  const [rows] = await records.query<[unknown[], number]>(
    `UPDATE "outbox" SET "given_up_at" = NULL, "attempts" = 0, "next_at" = clock_timestamp() WHERE "id" = $1 AND "delivered_at" IS NULL RETURNING 1`,
    [id],
  );
  return rows.length > 0;
}
