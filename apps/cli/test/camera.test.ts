import { atATerminal, desktopWithCamera, House, until } from '@porch/testkit';
import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('takes a picture through their camera from the terminal, lit and upright, and says what is missing', async () => {
  const { desktop, camera } = await desktopWithCamera(house, 'theirs');
  const { porch, person } = await atATerminal(house, desktop);
  const file = join(house.folder, 'plate.jpg');
  const early = await porch('camera', '-o', file);
  expect([early.code, existsSync(file)], 'before a yes').toEqual([1, false]);
  expect((await porch('camera')).code, 'without a place').toBe(2);
  expect((await porch('camera', '-o', file, '--turn', 'inside-out')).code).toBe(2);
  const [asked] = await Promise.all([porch('ask', 'camera'), person.answer(true, 1_100)]);
  expect(asked.code).toBe(0);
  const taken = await porch('camera', '-o', file);
  expect([taken.err, taken.out]).toEqual(['', `The picture is in ${file} (1920×1080).\n`]);
  expect(await sharp(readFileSync(file)).metadata()).toMatchObject({ format: 'jpeg', width: 1920, height: 1080 });
  expect(statSync(file).mode & 0o777).toBe(0o600);
  const dark = (await sharp(readFileSync(file)).stats()).channels[0]?.mean ?? 0;
  expect(JSON.parse((await porch('camera', '-o', file, '--light', '--turn', 'right', '--json')).out)).toEqual({
    file,
    width: 1920,
    height: 1080,
    isLit: true,
  });
  // The picture is as it came; whoever shows it turns it.
  expect((await sharp(readFileSync(file)).metadata()).orientation).toBe(6);
  expect((await sharp(readFileSync(file)).stats()).channels[0]?.mean).toBeGreaterThan(dark * 1.3);
  await until('the light to be off', () => !camera.isLit);
  camera.setBusy(true);
  const busy = await porch('camera', '-o', file);
  expect([busy.code === 0, busy.err.includes('the camera gave no picture')]).toEqual([false, true]);
  camera.unplug();
  await until('the word', async () => /^See the camera +not possible here/m.test((await porch('status')).out));
});
