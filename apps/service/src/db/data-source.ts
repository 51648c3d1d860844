import 'reflect-metadata';
import { DataSource, type EntityManager, type EntitySchema } from 'typeorm';
import { AppError } from '@porch/wire';
import { isConnectionTrouble } from './connection-trouble.ts';
import { Patience } from './patience.ts';
import { FirstTables1763880000000 } from './migrations/1763880000000-first-tables.ts';
import { WaysIn1763890000000 } from './migrations/1763890000000-ways-in.ts';
import { Devices1763900000000 } from './migrations/1763900000000-devices.ts';
import { WhatWasPromised1764250000000 } from './migrations/1764250000000-what-was-promised.ts';
import { KnownFaults1764262000000 } from './migrations/1764262000000-known-faults.ts';
import { Screenshots1764290000000 } from './migrations/1764290000000-screenshots.ts';
import { RecordsLevel1764300000000 } from './migrations/1764300000000-records-level.ts';
import { Projections1764330000000 } from './migrations/1764330000000-projections.ts';
import { SharedRounds1764320000000 } from './migrations/1764320000000-shared-rounds.ts';
import { Once1764350000000 } from './migrations/1764350000000-once.ts';
import { Preferences1764480000000 } from './migrations/1764480000000-preferences.ts';
import { PromisedTimes1764500000000 } from './migrations/1764500000000-promised-times.ts';
import { CarefulActs1764620000000 } from './migrations/1764620000000-careful-acts.ts';
import { Runbook1764630000000 } from './migrations/1764630000000-runbook.ts';
import { SystemReports1764610000000 } from './migrations/1764610000000-system-reports.ts';
import { LookingUp1764600000000 } from './migrations/1764600000000-looking-up.ts';
import { Policy1764340000000 } from './migrations/1764340000000-policy.ts';

/** A pool this small keeps the database calm; work beyond it waits its turn. */
const POOL_SIZE = 10;
export interface RecordsWaits {
  /** For a connection to be opened, or one of the pool to be free. */
  readonly connectMs: number;
  /** For one statement. */
  readonly queryMs: number;
}
/** Together nobody waits longer than the patience below, whatever the database does. */
export const serviceWaits: RecordsWaits = { connectMs: 3_000, queryMs: 5_000 };
/** Somebody sits before the terminal, and sees that it waits; nobody else waits for them. */
export const terminalWaits: RecordsWaits = { connectMs: 30_000, queryMs: 60_000 };
/** A transaction of ours that does nothing for so long was forgotten; its locks must not outlive it. */
const IDLE_IN_TRANSACTION_MS = 30_000;
/** While PostgreSQL restarts or stalls, work waits this long before it is refused with RECORDS_DOWN. */
export const RECORDS_PATIENCE_MS = 8_000;
const RETRY_MS = 250;
const START_RETRY_MS = 1_000;

export function makeDataSource(
  url: string,
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  tables: readonly EntitySchema<any>[],
  onPoolError: (error: Error) => void,
  waits: RecordsWaits,
): DataSource {
  return new DataSource({
    type: 'postgres',
    url,
    entities: [...tables],
    migrations: [
      FirstTables1763880000000,
      WaysIn1763890000000,
      Devices1763900000000,
      WhatWasPromised1764250000000,
      KnownFaults1764262000000,
      Screenshots1764290000000,
      RecordsLevel1764300000000,
      SharedRounds1764320000000,
      Projections1764330000000,
      Policy1764340000000,
      Once1764350000000,
      Preferences1764480000000,
      PromisedTimes1764500000000,
      LookingUp1764600000000,
      SystemReports1764610000000,
      CarefulActs1764620000000,
      Runbook1764630000000,
    ],
    synchronize: false,
    poolErrorHandler: onPoolError,
    connectTimeoutMS: waits.connectMs,
    extra: {
      max: POOL_SIZE,
      query_timeout: waits.queryMs,
      idle_in_transaction_session_timeout: IDLE_IN_TRANSACTION_MS,
      keepAlive: true,
    },
  });
}

/** Connects, for as long as it takes: a database that is still starting is no reason to give up. */
export async function connectRecords(records: DataSource, onWaiting: (why: string) => void): Promise<void> {
  let isWaitingTold = false;
  for (;;) {
    try {
      await records.initialize();
      return;
    } catch (error) {
      if (!isConnectionTrouble(error)) throw error;
      if (!isWaitingTold) onWaiting(String((error as Error).message));
      isWaitingTold = true;
      await new Promise((resolve) => setTimeout(resolve, START_RETRY_MS));
    }
  }
}

/** What a start needs of the records, for as long as it takes. The work is safe to repeat, also when its answer alone was lost. */
export async function whileStarting<T>(work: () => Promise<T>): Promise<T> {
  for (;;) {
    try {
      return await work();
    } catch (error) {
      const isDown = error instanceof AppError && error.code === 'RECORDS_DOWN';
      if (!isDown && !isConnectionTrouble(error)) throw error;
      await new Promise((resolve) => setTimeout(resolve, START_RETRY_MS));
    }
  }
}

/**
 * Runs work in one transaction, and again from the start when the connection was the trouble. Work must therefore be
 * safe to repeat; commands are, since they carry an id. Throws RECORDS_DOWN when patience ends, also when the database
 * says nothing at all: what it may still do then is learned at the next look.
 */
export async function inTransaction<T>(records: DataSource, work: (tx: EntityManager) => Promise<T>): Promise<T> {
  const patience = new Patience(RECORDS_PATIENCE_MS);
  try {
    for (;;) {
      try {
        return await patience.during(records.transaction(work), () => new AppError('RECORDS_DOWN'));
      } catch (error) {
        if (!isConnectionTrouble(error)) throw error;
        if (patience.isOver) throw new AppError('RECORDS_DOWN', {}, { cause: error });
        await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
      }
    }
  } finally {
    patience.end();
  }
}

/** The database's clock: expiry must not depend on whose clock a process happens to have. */
export async function databaseNowMs(tx: EntityManager): Promise<number> {
  const [row] = await tx.query<{ now: string }[]>(`SELECT extract(epoch FROM clock_timestamp()) * 1000 AS now`);
  return Math.floor(Number(row?.now));
}
