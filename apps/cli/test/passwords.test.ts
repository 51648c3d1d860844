import { startDesktop } from '@porch/demo';
import { atATerminal, House, signInForm, until } from '@porch/testkit';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());
const TAB = 23;
interface Status {
  readonly private: { readonly isPrivate: boolean; readonly password: { readonly care: string } | null };
}

it('says at the terminal that a password is typed there, or something private is done', async () => {
  const desktop = await startDesktop(house.processes, {
    name: 'types',
    home: join(house.folder, 'types'),
    programs: 'none',
    hasBus: true,
  });
  const { porch, person } = await atATerminal(house, desktop);
  expect((await Promise.all([porch('ask', 'see'), person.answer(true, 1_100)]))[0].code).toBe(0);
  const now = async () => (JSON.parse((await porch('status', '--json')).out) as Status).private;
  expect(await now()).toEqual({ isPrivate: false, password: null });
  await signInForm(house, desktop, person);
  await person.tapKey(TAB);
  await until('it to be said', async () => (await now()).password?.care === 'covered');
  expect((await porch('status')).out).toMatch(/typing a password \(for \d+:\d\d\); its field is covered/);
  await person.tapKey(TAB);
  await until('it to be over', async () => (await now()).password === null);
  const bar = await until('the bar', () => person.bar());
  await person.click(bar.private.x, bar.private.y);
  await until('it to be said', async () => (await now()).isPrivate);
  expect((await porch('status')).out).toContain('They are doing something private');
});
