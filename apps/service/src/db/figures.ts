import type { DataSource } from 'typeorm';
import { isConnectionTrouble } from './connection-trouble.ts';

export interface Figures {
  readonly waiting: number;
  readonly underWay: number;
  readonly outboxAgeSeconds: number;
}

/** Undefined while the records are away: a scrape must not fail with them. */
export async function readFigures(records: DataSource): Promise<Figures | undefined> {
  try {
    const [row] = await records.query<{ waiting: string; under_way: string; age: string | null }[]>(
      `SELECT (SELECT count(*) FROM "queue_entry" WHERE "state" = 'waiting') AS waiting,
              (SELECT count(*) FROM "session" WHERE "phase" IN ('joining', 'live')) AS under_way,
              (SELECT extract(epoch FROM clock_timestamp() - min("next_at")) FROM "outbox" WHERE "delivered_at" IS NULL AND "given_up_at" IS NULL) AS age`,
    );
    return {
      waiting: Number(row?.waiting ?? 0),
      underWay: Number(row?.under_way ?? 0),
      outboxAgeSeconds: Math.max(0, Number(row?.age ?? 0)),
    };
  } catch (error) {
    if (isConnectionTrouble(error)) return undefined;
    throw error;
  }
}
