import type { DataSource } from 'typeorm';

/** The tables were brought up by a newer release: this one would write into what it does not know. */
export class TablesTooNew extends Error {
  override readonly name = 'TablesTooNew';
}

/** Brings the tables up to this release, and hands back what was done. Throws TablesTooNew. */
export async function migrateRecords(records: DataSource): Promise<string[]> {
  const known = new Set(records.migrations.map(({ name, constructor }) => name ?? constructor.name));
  const isThere = await records.query<[{ has: boolean }]>(`SELECT to_regclass('migrations') IS NOT NULL AS has`);
  const done = isThere[0].has ? await records.query<{ name: string }[]>(`SELECT "name" FROM "migrations"`) : [];
  const unknown = done.filter(({ name }) => !known.has(name)).map(({ name }) => name);
  if (unknown.length)
    throw new TablesTooNew(
      `the tables are of a newer release (${unknown.join(', ')}): start that one, or bring back what was kept before it`,
    );
  return (await records.runMigrations({ transaction: 'each' })).map(({ name }) => name);
}
