import { firstPreferences } from '@porch/core';
import { failure, House } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { terminalWaits } from '../src/db/data-source.ts';
import { makeRecords } from '../src/modules/records.ts';

/* What technicians choose for themselves: each their own, whole, and never a reason not to get to work. */
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('is each person’s own, wherever they sign in, and as at first until they choose', async () => {
  const [pim, again, rune] = [await house.signedIn(), await house.signedIn(), await house.signedIn('Rune Takahashi')];
  expect(await pim.preferences()).toEqual(firstPreferences);
  const chosen = {
    ...firstPreferences,
    keyMaps: { apple: { Meta: 'Control', CapsLock: 'Escape' } },
    leaderKey: 'Pause',
    isWheelReversed: true,
  } as const;
  expect(await pim.setPreferences(chosen)).toEqual(chosen);
  expect(await again.preferences()).toEqual(chosen);
  expect(await rune.preferences()).toEqual(firstPreferences);
  await again.setPreferences(firstPreferences);
  expect(await pim.preferences()).toEqual(firstPreferences);
});

it('takes nothing that it does not know, and tells nothing to strangers', async () => {
  const pim = await house.signedIn();
  const put = (body: unknown) => failure(pim.setPreferences(body as typeof firstPreferences));
  expect(await put({ keyMaps: { apple: { Meta: 'Delete everything' } } })).toBe('INVALID_REQUEST');
  expect(await put({ keyMaps: { typewriter: {} } })).toBe('INVALID_REQUEST');
  expect(await put({ leaderKey: 'a' })).toBe('INVALID_REQUEST');
  expect(await put({ isWheelReversed: true, more: 'x'.repeat(1_000) })).toBe('INVALID_REQUEST');
  expect(await put({ more: 'x'.repeat(100_000) })).toBe('MESSAGE_TOO_LARGE');
  expect(await pim.preferences()).toEqual(firstPreferences);
  const stranger = await fetch(`${house.url}/api/v1/me/preferences`);
  expect([stranger.status, stranger.headers.get('cache-control')]).toEqual([401, expect.stringContaining('no-store')]);
});

it('that a later release wrote keeps nobody from their work', async () => {
  const ilse = await house.signedIn('Rune Takahashi');
  const { id } = await ilse.me();
  const records = makeRecords(house.databaseUrl, () => undefined, terminalWaits);
  await records.initialize();
  await ilse.setPreferences(firstPreferences);
  await records.query(`UPDATE "technician_preferences" SET "preferences" = $1 WHERE "technician_id" = $2`, [
    JSON.stringify({ gestures: ['of next year'] }),
    id,
  ]);
  expect(await ilse.preferences()).toEqual(firstPreferences);
  await records.destroy();
});
