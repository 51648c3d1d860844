import { newSession, type SessionState } from '@porch/core';
import { House } from '@porch/testkit';
import { createHash, randomBytes, randomUUID } from 'node:crypto';
import type { DataSource } from 'typeorm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { CodeSecrets } from '../src/auth/tokens.ts';
import { makeRecords } from '../src/modules/records.ts';
import { terminalWaits } from '../src/db/data-source.ts';
import { SealedAnew } from '../src/db/sealed-anew.ts';
import { ScreenshotEntity } from '../src/modules/screenshot/screenshot-table.ts';
import { ScreenshotDesk } from '../src/modules/screenshot/screenshot-desk.ts';
import type { SessionBook } from '../src/modules/sessions/session-book.ts';

const PNG_HEAD = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
const sha = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

let house: House;
let records: DataSource;
beforeAll(async () => {
  house = await House.open();
  records = makeRecords(house.databaseUrl, () => undefined, terminalWaits);
  await records.initialize();
});
afterAll(async () => {
  await records.destroy();
  await house.close();
});

it('keeps screenshots readable through any number of rotations, each waited for, and opens none that was changed', async () => {
  const pim = await house.signedIn();
  const sessionId = (await pim.start({})).session.id;
  const shots = Array.from({ length: 23 }, () => ({
    id: randomUUID(),
    png: Buffer.concat([PNG_HEAD, randomBytes(2_000)]),
  }));
  const state = {
    ...newSession,
    participants: { p: { technicianId: 'pim' } },
    slices: {
      ...newSession.slices,
      screenshot: Object.fromEntries(shots.map(({ id }) => [id, { takenById: 'p' }])),
    },
  } as unknown as SessionState;
  const book = {
    act: (_id: string, decide: (...args: unknown[]) => unknown) =>
      Promise.resolve(decide({ state }, Date.now(), records.manager)),
  } as unknown as SessionBook;
  const secrets = [randomBytes(32)];
  const desk = () => {
    const [now, ...before] = secrets.slice(0, 2);
    if (!now) throw new Error('no secret');
    const sealer = new CodeSecrets(now, ...before);
    return Object.assign(new ScreenshotDesk(records, book, sealer), {
      anew: () => new SealedAnew(records, ScreenshotEntity, sealer).round(),
    });
  };
  for (const { id, png } of shots) await desk().keep('pim', sessionId, id, png);
  expect(await desk().anew(), 'without a rotation there is nothing to do').toBe(0);

  // Somebody with the records in hand changes one.
  const [forged, ...rest] = shots;
  await records.query(
    `UPDATE "screenshot" SET "sealed" = set_byte("sealed", 40, 255 - get_byte("sealed", 40)) WHERE id = $1`,
    [forged?.id],
  );
  for (let rotation = 0; rotation < 3; rotation++) {
    secrets.unshift(randomBytes(32));
    let done = 0;
    for (let some; (some = await desk().anew());) done += some;
    expect(done).toBe(rotation === 0 ? shots.length : rest.length);
  }
  for (const { id, png } of rest) expect(sha(await desk().read(sessionId, id))).toBe(sha(png));
  await expect(desk().read(sessionId, forged?.id ?? '')).rejects.toMatchObject({ code: 'SCREENSHOT_NOT_FOUND' });
});
