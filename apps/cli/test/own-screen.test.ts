import { startDesktop } from '@porch/demo';
import { atATerminal, dumpScreen, House, until } from '@porch/testkit';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PNG } from 'pngjs';
import { afterAll, beforeAll, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const [RED, BLUE] = [0xd01020, 0x2040c0];
function write(file: string, colour: number, { width, height } = { width: 500, height: 300 }): void {
  const png = new PNG({ width, height });
  for (let at = 0; at < png.data.length; at += 4)
    png.data.set([colour >> 16, (colour >> 8) & 255, colour & 255, 255], at);
  writeFileSync(file, PNG.sync.write(png));
}

it('shows a picture from the terminal, follows its file, and says what is wrong and how it stands', async () => {
  const desktop = await startDesktop(house.processes, {
    name: 'shown',
    home: join(house.folder, 'shown'),
    programs: 'none',
  });
  const { porch, person } = await atATerminal(house, desktop);
  const file = join(house.folder, 'wiring.png');
  write(file, RED);
  const middle = async () => {
    const place = await person.shown();
    if (!place) return undefined;
    const { x, y, width, height } = place;
    return dumpScreen(desktop.display, {
      x: x + Math.floor(width / 2),
      y: y + Math.floor(height / 2),
      width: 1,
      height: 1,
    })[0];
  };
  expect((await porch('show')).code, 'without a picture').toBe(2);
  const broken = join(house.folder, 'broken.png');
  writeFileSync(broken, 'no picture');
  const wrong = await porch('show', broken);
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining('neither PNG nor JPEG')]);
  expect((await porch('show', join(house.folder, 'none.png'))).code).toBe(2);
  expect((await porch('show', file)).code, 'before a yes').toBe(1);
  expect(await person.shown()).toBeUndefined();
  const [asked] = await Promise.all([porch('ask', 'show'), person.answer(true, 1_100)]);
  expect(asked.code).toBe(0);
  expect((await porch('show', file)).out).toBe(
    'They see wiring.png once it opens there. Stop with: porch show --stop\n',
  );
  await until('it there', async () => (await middle()) === RED);
  await until('the word', async () => (await porch('status')).out.includes('They see wiring.png.'));
  // The file becomes another picture, of another size.
  write(file, BLUE, { width: 400, height: 400 });
  await until('the other', async () => (await middle()) === BLUE);
  const { close } = (await person.shown()) ?? { close: { x: 0, y: 0 } };
  await person.click(close.x, close.y);
  await until('it to be gone', async () => (await person.shown()) === undefined);
  await until('the word', async () => (await porch('status')).out.includes('They closed what you showed.'));
  expect(JSON.parse((await porch('show', file, '--json')).out)).toMatchObject({ shows: 'wiring.png', over: null });
  await until('it there', async () => (await middle()) === BLUE);
  expect((await porch('show', '--stop')).out).toBe('Nothing is shown to them any longer.\n');
  await until('it to be gone', async () => (await person.shown()) === undefined);
});
