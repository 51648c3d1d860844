import { startDesktop } from '@porch/demo';
import { atATerminal, House, KeyCatcher, showOnlyTopmostAndAgree, until } from '@porch/testkit';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('says at the terminal that one program is shown and nothing else, or that it was closed', async () => {
  const home = join(house.folder, 'one');
  const desktop = await startDesktop(house.processes, { name: 'one', home, programs: 'none' });
  const program = await KeyCatcher.titled(desktop.display, 'Quay tickets', { at: [150, 250], colour: 0x2f7d4f });
  const { porch, person } = await atATerminal(house, desktop);
  const shows = async () => (JSON.parse((await porch('status', '--json')).out) as { shows: string }).shows;
  expect(await shows()).toBe('everything');
  expect((await Promise.all([porch('ask', 'see'), showOnlyTopmostAndAgree(person, 1)]))[0].code).toBe(0);
  await until('it to be said', async () => (await shows()) === 'program');
  expect((await porch('status')).out).toContain('They show one program only.');
  program.close();
  await until('its end', async () => (await shows()) === 'nothing');
  expect((await porch('status')).out).toContain('The program that they show was closed: nothing is shown.');
});
