import type { FastifyBaseLogger } from 'fastify';
import type { DataSource } from 'typeorm';
import { RepeatedWork } from '../module/repeated-work.ts';
import { connectRecords } from './data-source.ts';
import { migrateRecords } from './migrate.ts';
import { nextOwnerEpoch, OwnerLock } from './owner-lock.ts';
import { WrittenLevel } from './records-level.ts';

const LEVEL_PAUSE_MS = 2_000;

/** Records that this process serves, and no other. */
export interface ServedRecords {
  readonly level: Pick<WrittenLevel, 'current'>;
  /** Grows with every process that serves them. */
  readonly ownerEpoch: number;
  close(): Promise<void>;
}

/** Connects, waits for whoever served them before, and brings their tables up to this release. Throws SecondProcess, TablesTooNew. */
export async function serveRecords(
  records: DataSource,
  { databaseUrl, ownershipLost }: { readonly databaseUrl: string; ownershipLost(): void },
  log: FastifyBaseLogger,
): Promise<ServedRecords> {
  await connectRecords(records, () => log.warn('the records cannot be reached yet; waiting for them'));
  const ownerLock = new OwnerLock(databaseUrl, () => ownershipLost());
  await ownerLock.take();
  await migrateRecords(records);
  const level = new WrittenLevel(records);
  await level.read();
  const ownerEpoch = await nextOwnerEpoch(records);
  const reading = new RepeatedWork('reading how far an upgrade is', LEVEL_PAUSE_MS, log, () => level.read());
  reading.start();
  return {
    level,
    ownerEpoch,
    close: async () => {
      await reading.close();
      await ownerLock.close();
      await records.destroy();
    },
  };
}
