import { House, failure, until } from '@porch/testkit';
import { RECORDS_LEVEL } from '@porch/core';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { makeRecords } from '../src/modules/records.ts';
import { terminalWaits } from '../src/db/data-source.ts';
import { migrateRecords, TablesTooNew } from '../src/db/migrate.ts';
import { allowed } from './bare-doorstep.ts';

/* A release reads more than it writes until whoever runs it says that nobody older is needed. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const admin = (...args: string[]) => house.admin(args);
async function withRecords<T>(work: (records: ReturnType<typeof makeRecords>) => Promise<T>): Promise<T> {
  const records = makeRecords(house.settings()['PORCH_DATABASE_URL'] ?? '', () => undefined, terminalWaits);
  await records.initialize();
  try {
    return await work(records);
  } finally {
    await records.destroy();
  }
}
const setLevel = (level: number) =>
  withRecords((records) => records.query(`UPDATE "records_level" SET "level" = $1`, [level]));

describe('an upgrade', () => {
  it('writes nothing that an older release does not know until it is finished, live, and says what waits', async () => {
    expect((await admin('upgrade', '--json')).out, 'new records are where the release is').toContain('"waiting": []');
    const { technician, link } = await house.sessionUnderWay();
    const doorstep = await house.bareDoorstep({ link }, undefined, ['view-screen', 'take-screenshot']);
    await until('Doorstep', () => technician.state.holderId);
    await allowed(technician, doorstep, 'view-screen');
    await setLevel(1);
    const { id: technicianId } = await (await house.signedIn('Rune Takahashi')).me();
    // Another part each time: the same twice writes nothing.
    let n = 0;
    const letIn = () => {
      const part = n++ % 2 ? 'colleague' : 'adviser';
      return failure(technician.command({ type: 'beside/letIn', technicianId, part }));
    };
    await until('it to be kept to', async () => (await letIn()) === 'UPGRADE_UNFINISHED');
    const ask = () =>
      failure(
        technician.command({
          type: 'askPermissions',
          askId: crypto.randomUUID(),
          permissions: ['take-screenshot'],
        }),
      );
    expect(await ask(), 'what would follow from it could not be written').toBe('UPGRADE_UNFINISHED');
    const waiting = await admin('upgrade');
    expect(waiting.out).toMatch(/level 1.*knows 4[^]*screenshot\/taken.*porch-admin upgrade finish/);
    expect((await admin('check')).out).toMatch(/LOOK +upgrade +not finished/);

    expect(await admin('upgrade', 'finish')).toMatchObject({
      code: 0,
      out: expect.stringContaining('from level 1 to 4'),
    });
    await until('it to be written', async () => (await ask()) === 'no failure');
    expect((await admin('upgrade', 'finish')).out).toContain('finished already');
  });

  it('can be gone back from until it is finished: an older release goes on with tables that only grew', async () => {
    const withLaterTables = (level: number) =>
      withRecords(async (records) => {
        await records.query(
          `INSERT INTO "migrations" ("timestamp", "name") VALUES (9999999999999, 'Later9999999999999')`,
        );
        await records.query(`UPDATE "records_level" SET "level" = $1`, [level]);
        try {
          return await migrateRecords(records);
        } finally {
          await records.query(`DELETE FROM "migrations" WHERE "name" = 'Later9999999999999'`);
          await records.query(`UPDATE "records_level" SET "level" = $1`, [RECORDS_LEVEL]);
        }
      });
    expect(await withLaterTables(RECORDS_LEVEL)).toEqual([]);
    await expect(withLaterTables(RECORDS_LEVEL + 1)).rejects.toThrow(TablesTooNew);
    await setLevel(RECORDS_LEVEL + 1);
    const refused = await admin('upgrade', 'finish');
    await setLevel(RECORDS_LEVEL);
    expect(refused).toMatchObject({ code: 1, err: expect.stringContaining('use the newer one') });
  });

  it('only adds to the tables: what is taken away waits for a release that nobody goes back from', () => {
    const folder = join(inject('root'), 'apps', 'service', 'src', 'db', 'migrations');
    // Those before it are of one release line that had no other.
    const later = readdirSync(folder).filter((file) => Number(file.split('-')[0]) >= 1764290000000);
    expect(later.length).toBeGreaterThan(1);
    for (const file of later) {
      const [up = ''] = readFileSync(join(folder, file), 'utf8').split(/const down|async down\(/);
      expect(up, file).not.toMatch(/\b(DROP|RENAME|TRUNCATE|DELETE FROM|ALTER COLUMN)\b/i);
      for (const [column] of up.matchAll(/ADD (COLUMN )?"[^,;`]*/gi))
        expect(column, `${file}: an older release writes rows without it`).toMatch(/DEFAULT|^(?!.*NOT NULL)/i);
    }
  });
});
