import { startDesktop } from '@porch/demo';
import { atATerminal, House, until } from '@porch/testkit';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

it('gives folders and files in one question, reads names, fetches a folder, and says what becomes of a name', async () => {
  const desktop = await startDesktop(house.processes, {
    name: 'files',
    home: join(house.folder, 'their-home'),
    programs: 'none',
  });
  const { porch, person } = await atATerminal(house, desktop);
  const downloads = join(desktop.home, 'Downloads');
  const mine = join(house.folder, 'Quayprint 4.1');
  mkdirSync(join(mine, 'drivers'), { recursive: true });
  writeFileSync(join(mine, 'drivers', 'quay.ini'), 'height = 24\n');
  const note = join(house.folder, 'note.txt');
  writeFileSync(note, 'Tern Quay\n');
  expect((await porch('give', note)).code, 'before a yes').toBe(1);
  expect((await porch('names')).code, 'before a yes').toBe(1);
  for (const what of ['give', 'fetch']) {
    const [asked] = await Promise.all([porch('ask', what), person.answer(true, 1_100)]);
    expect(asked.code).toBe(0);
  }
  const [given] = await Promise.all([porch('give', mine, note, '--json'), person.press(/gives you 2 things/, 'yes')]);
  const { items } = JSON.parse(given.out) as { items: { stage: string; name: string }[] };
  expect(items.map(({ stage }) => stage)).toEqual(['arrived', 'arrived']);
  expect(readFileSync(join(downloads, 'Quayprint 4.1', 'drivers', 'quay.ini'), 'utf8')).toBe('height = 24\n');
  expect((await porch('status')).out).toMatch(/Quayprint 4.1\/ .*complete/);

  const [names] = await Promise.all([porch('names'), person.press(/names of your files/, 'yes', { i: 0, of: 1 })]);
  expect(names.out).toMatch(/^NAME +SIZE +CHANGED/);
  expect(names.out).toMatch(/Downloads\/ +folder/);
  const within = JSON.parse((await porch('names', 'Downloads', '--json')).out) as { items: { name: string }[] };
  expect(within.items.map(({ name }) => name)).toEqual(['note.txt', 'Quayprint 4.1']);
  const missing = await porch('names', 'none');
  expect([missing.code, missing.err]).toEqual([1, expect.stringContaining('there is no such file')]);

  const output = join(house.folder, 'fetched');
  const fetchIt = (...more: string[]) =>
    Promise.all([
      porch('fetch', 'Downloads/Quayprint 4.1', '-o', output, ...more),
      person.press(/wants to fetch a folder/, 'yes'),
    ]);
  expect((await fetchIt())[0].out).toContain(join(output, 'Quayprint 4.1'));
  expect(readFileSync(join(output, 'Quayprint 4.1', 'drivers', 'quay.ini'), 'utf8')).toBe('height = 24\n');
  expect((await fetchIt('--if-there', 'skip'))[0].code, 'it is there').toBe(1);
  expect((await fetchIt('--if-there', 'replace'))[0].code).toBe(0);
  expect((await fetchIt())[0].out).toContain('Quayprint 4.1 (2)');
  await until(
    'no part to be left',
    () => readdirSync(output).sort().join() === 'Quayprint 4.1,Quayprint 4.1 (2),Quayprint 4.1 (before)',
  );
  expect((await porch('let-wait', 'none')).code, 'nothing of that name is on its way').toBe(1);

  // One that takes its time waits, goes on and is stopped.
  writeFileSync(note, Buffer.alloc(200_000_000, 7));
  const giving = porch('give', note, '--json');
  await person.press(/gives you a file/, 'yes', { i: 0, of: 2 });
  await until('it to wait', async () => (await porch('let-wait', 'note.txt')).code === 0);
  expect((await porch('status')).out).toMatch(/note.txt .*waits/);
  expect((await porch('let-go-on', 'note.txt')).out).toBe('note.txt goes on.\n');
  expect((await porch('stop-file', 'note.txt')).out).toBe('note.txt was stopped.\n');
  const done = JSON.parse((await giving).out) as { items: { stage: string }[] };
  expect(done.items[0]?.stage).toBe('cancelled');
  expect((await porch('stop-file', 'note.txt')).code, 'it is over').toBe(1);
  await until('what came of it to be gone', () => readdirSync(downloads).every((name) => !name.startsWith('.')));
});
