import 'reflect-metadata';
import { DataSource, type EntityManager } from 'typeorm';
import { AppError } from '@porch/wire';
import { entities } from './entities.ts';
import { FirstTables1763880000000 } from './migrations/1763880000000-first-tables.ts';
import { WaysIn1763890000000 } from './migrations/1763890000000-ways-in.ts';
import { Devices1763900000000 } from './migrations/1763900000000-devices.ts';

/** A pool this small keeps the database calm; work beyond it waits its turn. */
const POOL_SIZE = 10;
const CONNECT_MS = 3_000;
/** While PostgreSQL restarts, work waits this long before it is refused with RECORDS_DOWN. */
export const RECORDS_PATIENCE_MS = 25_000;
const RETRY_MS = 250;

export function makeDataSource(url: string, onPoolError: (error: Error) => void): DataSource {
  return new DataSource({
    type: 'postgres',
    url,
    entities,
    migrations: [FirstTables1763880000000, WaysIn1763890000000, Devices1763900000000],
    synchronize: false,
    poolErrorHandler: onPoolError,
    connectTimeoutMS: CONNECT_MS,
    extra: { max: POOL_SIZE },
  });
}

/** Connection lost, refused, or the server starting or stopping: worth another try. All else is a bug or a refusal. */
function isConnectionTrouble(error: unknown): boolean {
  const code =
    (error as { code?: string }).code ?? (error as { driverError?: { code?: string } }).driverError?.code ?? '';
  const message = String((error as Error).message);
  return (
    /^(08|57P0)/.test(code) ||
    ['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT'].includes(code) ||
    /Connection terminated|timeout expired|not currently accepting connections|Client has encountered a connection error|not queryable/.test(
      message,
    )
  );
}

/**
 * Runs work in one transaction, and again from the start when the connection was the trouble. Work must therefore be
 * safe to repeat; commands are, since they carry an id. Throws RECORDS_DOWN when patience ends.
 */
export async function inTransaction<T>(records: DataSource, work: (tx: EntityManager) => Promise<T>): Promise<T> {
  const giveUpAt = Date.now() + RECORDS_PATIENCE_MS;
  for (;;) {
    try {
      return await records.transaction(work);
    } catch (error) {
      if (!isConnectionTrouble(error)) throw error;
      if (Date.now() > giveUpAt) throw new AppError('RECORDS_DOWN', {}, { cause: error });
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
    }
  }
}

/** The database's clock: expiry must not depend on whose clock a process happens to have. */
export async function databaseNowMs(tx: EntityManager): Promise<number> {
  const [row] = await tx.query<{ now: string }[]>(`SELECT extract(epoch FROM clock_timestamp()) * 1000 AS now`);
  return Math.floor(Number(row?.now));
}
