import { RECORDS_LEVEL } from '@porch/core';
import type { DataSource } from 'typeorm';
import { readLevel } from './records-level.ts';

/** The tables were brought up by a newer release: this one would write into what it does not know. */
export class TablesTooNew extends Error {
  override readonly name = 'TablesTooNew';
}

/**
 * Brings the tables up to this release, and hands back what was done. Tables only grow until an upgrade is finished, so an
 * older release goes on with those of a newer one until then. Throws TablesTooNew.
 */
export async function migrateRecords(records: DataSource): Promise<string[]> {
  const known = new Set(records.migrations.map(({ name, constructor }) => name ?? constructor.name));
  const isThere = await records.query<[{ has: boolean }]>(`SELECT to_regclass('migrations') IS NOT NULL AS has`);
  const done = isThere[0].has ? await records.query<{ name: string }[]>(`SELECT "name" FROM "migrations"`) : [];
  const unknown = done.filter(({ name }) => !known.has(name)).map(({ name }) => name);
  if (unknown.length && !(await isWithinReach(records)))
    throw new TablesTooNew(
      `the tables are of a newer release (${unknown.join(', ')}): start that one, or bring back what was kept before it`,
    );
  const made = (await records.runMigrations({ transaction: 'each' })).map(({ name }) => name);
  // Nobody older has ever used new ones.
  if (!done.length) await records.query(`UPDATE "records_level" SET "level" = $1`, [RECORDS_LEVEL]);
  return made;
}

/** Whether a newer release has only added to the tables, and writes nothing yet that we do not know. */
async function isWithinReach(records: DataSource): Promise<boolean> {
  const [{ has }] = await records.query<[{ has: boolean }]>(`SELECT to_regclass('records_level') IS NOT NULL AS has`);
  return has && (await readLevel(records)) <= RECORDS_LEVEL;
}
