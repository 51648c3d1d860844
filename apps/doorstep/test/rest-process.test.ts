import { PersonAtDesk, startDesktop } from '@porch/demo';
import { XConnection } from '@porch/doorstep';
import { House, until, KeyCatcher } from '@porch/testkit';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createInterface } from 'node:readline';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';

/*
 * The processes that keep mouse and keyboard from working, or cover the screen: whoever dies, falls silent or takes a part
 * away, at whatever moment, the person has them back. Long runs do it a thousand times.
 */
const TIMES = process.env['PORCH_TEST_LONG'] ? 1_000 : 30;
const [ESCAPE, LETTER_A, LETTER_S, CONTROL, ALT] = [9, 38, 39, 37, 64];
const [GREEN, COVER] = [0x20a040, 0x0a2a2f];
const words = { title: 'Pim works alone', line: 'A moment.', atMost: 'It ends in', key: 'Esc', keyDoes: 'ends it' };

let house: House;
let display = '';
let person: PersonAtDesk;
let catcher: KeyCatcher;
let eye: XConnection;
beforeAll(async () => {
  house = await House.open();
  const home = join(house.folder, 'home');
  ({ display } = await startDesktop(house.processes, { name: 'a test', home, programs: 'none' }));
  person = await PersonAtDesk.at(display);
  eye = await XConnection.open(display, () => undefined);
  catcher = await KeyCatcher.at(display, { x: 40, y: 400, width: 200, height: 120 }, GREEN);
});
afterAll(() => {
  person.close();
  catcher.close();
  eye.close();
  return house.close();
});

const personTypes = async () => {
  catcher.heard = [];
  await person.tapKey(LETTER_A);
  await catcher.x.flush();
  return catcher.heard.includes(LETTER_A);
};
const pixel = async () => {
  const { data } = await eye.ask<{ data: Buffer }>((cb) =>
    eye.client.GetImage(2, eye.root, 100, 450, 1, 1, 0xffffffff, cb),
  );
  return data.readUInt32LE(0) & 0xffffff;
};
const windowsNow = async () =>
  (await eye.ask<{ children: number[] }>((cb) => eye.client.QueryTree(eye.root, cb))).children;

function start(what: 'input' | 'screen', forMs: number) {
  const program = join(inject('root'), 'dist', 'doorstep.mjs');
  const child = spawn(process.execPath, [program, 'rest', '--display', display], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  child.stdin.on('error', () => undefined);
  const said: { says: string; by?: string; window?: number; why?: string }[] = [];
  createInterface({ input: child.stdout }).on('line', (line) => {
    const now = JSON.parse(line) as (typeof said)[number];
    said.push(now);
    if (now.says === 'ready') child.stdin.write('go\n');
  });
  child.stdin.write(`${JSON.stringify({ what, forMs, words })}\n`);
  const ticks = setInterval(() => child.stdin.write('tick\n'), 250);
  const exit = once(child, 'exit').finally(() => clearInterval(ticks));
  return {
    child,
    said,
    exit,
    silence: () => clearInterval(ticks),
    has: (says: string) => said.some((s) => s.says === says),
  };
}
type Rest = ReturnType<typeof start>;

const ends = ['killed', 'pipe closed', 'silent', 'stopped and silent', 'its time', 'Escape', 'Stop'] as const;
const act: Readonly<Record<(typeof ends)[number], (rest: Rest) => unknown>> = {
  killed: ({ child }) => child.kill('SIGKILL'),
  'pipe closed': ({ child }) => child.stdin.end(),
  silent: (rest) => rest.silence(),
  // Doorstep stands still, and this one was held up, too; it looks as soon as it goes on.
  'stopped and silent': async (rest) => {
    rest.child.kill('SIGSTOP');
    rest.silence();
    await eye.flush();
    rest.child.kill('SIGCONT');
  },
  'its time': () => undefined,
  Escape: () => person.tapKey(ESCAPE),
  Stop: () => person.chord([CONTROL, ALT, LETTER_S]),
};

it('gives everything back however it ends, in whatever moment', async () => {
  const windows = await windowsNow();
  let done = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom('input' as const, 'screen' as const),
      fc.constantFrom(...ends),
      fc.integer({ min: 0, max: 3 }),
      async (what, how, flushes) => {
        done++;
        const isTimed = how === 'its time';
        const rest = start(what, isTimed ? 700 : 60_000);
        const needsForce = how === 'Escape' || how === 'Stop';
        // Or earlier: while it begins, after so many answers of the screen.
        if (needsForce || flushes === 0) {
          await until('it to be in force', () => rest.has('in force') || (isTimed && rest.child.exitCode !== null));
          if (!isTimed) {
            if (what === 'input') expect(await personTypes()).toBe(false);
            else expect(await pixel()).toBe(COVER);
          }
        } else for (let i = 0; i < flushes * 10; i++) await eye.flush();
        await act[how](rest);
        await rest.exit;
        await until('the screen', async () => (await pixel()) === GREEN);
        await until('the keys', personTypes);
        expect(await person.keysDown()).toEqual([]);
        expect(await windowsNow()).toEqual(windows);
        if (how === 'Stop') expect(rest.said.at(-1)).toEqual({ says: 'lifted', by: 'stop' });
        if (how === 'Escape') expect(rest.said.at(-1)).toEqual({ says: 'lifted', by: 'key' });
      },
    ),
    { ...runs(), numRuns: TIMES },
  );
  expect(done).toBeGreaterThanOrEqual(TIMES);
});

it('waits until what is held is let go, and says when it is not', async () => {
  await person.holdKey(LETTER_A, true);
  const rest = start('input', 60_000);
  await until('it to be ready', () => rest.has('ready'));
  await until('it to be prepared', async () => (await person.keysDown()).length === 1);
  expect(rest.has('in force')).toBe(false);
  await person.holdKey(LETTER_A, false);
  await until('it to be in force', () => rest.has('in force'));
  expect(await person.keysDown()).toEqual([]);
  rest.child.stdin.end();
  await rest.exit;
});

it('counts the key that lies where Escape does, whatever the map of the keyboard was changed to', async () => {
  const row = await eye.ask<number[][]>((cb) => eye.client.GetKeyboardMapping(ESCAPE, 1, cb));
  eye.client.ChangeKeyboardMapping(ESCAPE, 2, [0x78, 0x58]);
  await eye.flush();
  const rest = start('input', 60_000);
  await until('it to be in force', () => rest.has('in force'));
  await person.tapKey(ESCAPE);
  await rest.exit;
  expect(rest.said.at(-1)).toEqual({ says: 'lifted', by: 'key' });
  eye.client.ChangeKeyboardMapping(ESCAPE, row[0]?.length ?? 2, row[0] ?? []);
  await until('the keys', personTypes);
});
