import { RECORDS_LEVEL } from '@porch/core';
import type { DataSource } from 'typeorm';

/** Somebody wants what only the records' next level allows, or a step before it is missing. */
export class UpgradeNotReady extends Error {
  override readonly name = 'UpgradeNotReady';
}

export async function readLevel(records: DataSource): Promise<number> {
  const [row] = await records.query<{ level: number }[]>(`SELECT "level" FROM "records_level"`);
  return row?.level ?? 1;
}

/** From now on everything that this release knows may be written; a release that does not know it cannot go on from there. */
export async function finishUpgrade(records: DataSource): Promise<{ from: number; to: number }> {
  if (await records.showMigrations())
    throw new UpgradeNotReady('the tables are of an older release; run first: porch-admin migrate');
  const from = await readLevel(records);
  if (from > RECORDS_LEVEL)
    throw new UpgradeNotReady(
      `the records are at level ${from}, and this release knows ${RECORDS_LEVEL}: use the newer one`,
    );
  await records.query(`UPDATE "records_level" SET "level" = $1`, [RECORDS_LEVEL]);
  return { from, to: RECORDS_LEVEL };
}

/** What may be written now, as it was last read. */
export class WrittenLevel {
  readonly #records: DataSource;
  #level = 1;

  constructor(records: DataSource) {
    this.#records = records;
  }

  get current(): number {
    return this.#level;
  }
  async read(): Promise<void> {
    this.#level = await readLevel(this.#records);
  }
}
