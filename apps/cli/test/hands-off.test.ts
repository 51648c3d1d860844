import { startDesktop } from '@porch/demo';
import { atATerminal, dumpScreen, House, until } from '@porch/testkit';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
});
afterAll(() => house.close());
const COVER = 0x0a2a2f;

it('asks them to step back, and covers their screen as long as they let it, from the terminal', async () => {
  const desktop = await startDesktop(house.processes, {
    name: 'rests',
    home: join(house.folder, 'rests'),
    programs: 'none',
  });
  const { porch, person } = await atATerminal(house, desktop, {}, 'MF-201');
  expect((await porch('step-back')).code, 'before a yes').toBe(1);
  for (const permission of ['see', 'work'])
    expect((await Promise.all([porch('ask', permission), person.answer(true, 1_100)]))[0].code).toBe(0);
  const asked = await porch('step-back');
  expect([asked.code, asked.out]).toEqual([0, expect.stringContaining('should be left alone')]);
  expect((await porch('step-back', '--over')).code).toBe(0);

  const [cover] = await Promise.all([porch('ask', 'cover'), person.answer(true, 1_100)]);
  expect(cover.code).toBe(0);
  const seen = () => dumpScreen(desktop.display, { x: 20, y: 700, width: 1, height: 1 })[0];
  await until('the cover', () => seen() === COVER);
  await until('it to say how long', async () => /covered: 4:\d\d left/.test((await porch('status')).out));
  const status = JSON.parse((await porch('status', '--json')).out) as { handsOff: { resting: { what: string }[] } };
  expect(status.handsOff.resting.map(({ what }) => what)).toEqual(['screen']);
  // Nothing is fetched meanwhile.
  const fetching = await porch('ask', 'fetch-files');
  expect([fetching.code, fetching.err]).toEqual([1, expect.stringContaining('never goes together')]);
  expect((await porch('give-back', 'cover')).code).toBe(0);
  await until('the screen', () => seen() !== COVER);
});
