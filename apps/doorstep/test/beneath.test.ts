import { startDesktop } from '@porch/demo';
import { loadExtensions, XConnection } from '@porch/doorstep';
import { dumpScreen, House, until, KeyCatcher } from '@porch/testkit';
import { spawn } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { HiddenWindows } from '../src/x11/hiding/hidden-windows.ts';
import { ScreenWatch } from '../src/x11/screen/screen-watch.ts';
import { hasCompositor } from '../src/x11/server/compositor.ts';
import { InkPace } from '../src/x11/server/ink-pace.ts';

/* What is taken beneath a cover is what the screen would show without one, pixel by pixel, whoever draws the screen. */
const [WIDTH, HEIGHT] = [1_024, 700];
const [COVER, GREEN, BLUE] = [0x0a2a2f, 0x20a040, 0x3030c0];
const BOUNDING = 0;
const LOOKS_AT_REST = 20;
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

async function follow(display: string) {
  const x = await XConnection.open(display, () => undefined);
  const extensions = await loadExtensions(x);
  const seen = new Uint32Array(WIDTH * HEIGHT);
  const watch = await ScreenWatch.start({
    x,
    extensions,
    hidden: new HiddenWindows(x, extensions),
    mayGrab: () => true,
    leastGapMs: () => 0,
    pace: new InkPace(),
    watcher: {
      onMonitors: () => undefined,
      onCursorShape: () => undefined,
      onCursorPosition: () => undefined,
      onPixels: (pieces) => {
        for (const { rect, pixels } of pieces)
          for (let row = 0; row < rect.height; row++)
            seen.set(
              pixels.subarray(row * rect.width, (row + 1) * rect.width).map((word) => word & 0xffffff),
              (rect.y + row) * WIDTH + rect.x,
            );
      },
    },
  });
  return { x, extensions, seen, watch };
}

/** A caret that comes and goes is no screen at rest. */
function haveNoBlinking(home: string): void {
  const folder = join(home, '.config', 'gtk-3.0');
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'settings.ini'), '[Settings]\ngtk-cursor-blink = false\n');
}

/** What is on the screen once a program that still starts has stopped painting. */
async function atRest(display: string): Promise<Uint32Array> {
  let last = dumpScreen(display);
  let same = 0;
  return until('a screen at rest', () => {
    const now = dumpScreen(display);
    same = now.every((pixel, i) => pixel === last[i]) ? same + 1 : 0;
    last = now;
    return same >= LOOKS_AT_REST && last;
  });
}

it.each([
  ['the X server', false],
  ['a compositor', true],
])(
  'is the screen without the cover where %s draws it, and follows what changes and opens',
  async (_who, isComposited) => {
    const home = join(house.folder, `home-${String(isComposited)}`);
    haveNoBlinking(home);
    const { display } = await startDesktop(house.processes, {
      ...{ name: 'beneath', home },
      width: WIDTH,
      height: HEIGHT,
      programs: 'editor',
    });
    const w = await follow(display);
    if (isComposited) {
      house.processes.start('compositor', 'xcompmgr', ['-d', display]);
      await until('the compositor', () => hasCompositor(w.x));
    }
    const other = await KeyCatcher.at(display, { x: 60, y: 500, width: 300, height: 100 }, GREEN);
    // A window that is not a rectangle, over others.
    const { shape } = w.extensions;
    const setShape = async () => {
      shape.Rectangles(shape.Op['Set'] ?? 0, BOUNDING, other.window, 0, 0, [
        [0, 0, 120, 100],
        [120, 40, 180, 20],
      ]);
      await other.x.flush();
    };
    const eye = (x: number, y: number) => dumpScreen(display, { x, y, width: 1, height: 1 })[0];
    // A compositor that is just taking the window up hears of no shape that it got meanwhile: it is told until it knows.
    await until('the other program, in its shape', async () => {
      await setShape();
      return eye(100, 550) === GREEN && eye(200, 510) !== GREEN;
    });
    const before = await atRest(display);

    const program = join(inject('root'), 'dist', 'doorstep.mjs');
    const child = spawn(process.execPath, [program, 'rest', '--display', display], {
      stdio: ['pipe', 'pipe', 'inherit'],
    });
    const said: { says: string; window?: number }[] = [];
    createInterface({ input: child.stdout }).on('line', (line) => said.push(JSON.parse(line) as (typeof said)[number]));
    const words = { title: 'Pim works', line: 'A moment.', atMost: 'It ends in', key: 'Esc', keyDoes: 'ends it' };
    child.stdin.write(`${JSON.stringify({ what: 'screen', forMs: 120_000, words })}\n`);
    const ticks = setInterval(() => child.stdin.write('tick\n'), 250);
    await until('it to be ready', () => said.length);
    w.seen.fill(0);
    await w.watch.lookBeneath(said[0]?.window);
    child.stdin.write('go\n');
    await until('the cover', () => eye(100, 550) === COVER);
    let differs = 0;
    const isAsBefore = () => (differs = w.seen.filter((pixel, i) => pixel !== before[i]).length) === 0;
    await until('the screen as it was', isAsBefore).catch((error: Error) => {
      const i = w.seen.findIndex((pixel, at) => pixel !== before[at]);
      throw new Error(
        `${error.message}; ${differs} pixels differ, the first at ${i % WIDTH}, ${Math.floor(i / WIDTH)}`,
      );
    });

    await other.paint(BLUE);
    await until('the change', () => w.seen[550 * WIDTH + 100] === BLUE);
    const menu = await KeyCatcher.at(display, { x: 400, y: 100, width: 160, height: 100 }, BLUE);
    await until('the menu', () => w.seen[150 * WIDTH + 480] === BLUE);
    await until('nobody else to see it', () => eye(480, 150) !== BLUE);
    menu.close();
    await until('it to be gone', () => w.seen[150 * WIDTH + 480] === before[150 * WIDTH + 480]);
    expect(eye(100, 550)).toBe(COVER);

    clearInterval(ticks);
    child.stdin.end();
    await until('the screen', () => eye(100, 550) === BLUE);
    await w.watch.lookBeneath(undefined);
    await other.paint(GREEN);
    await until('the change', () => w.seen[550 * WIDTH + 100] === GREEN);
    w.watch.stop();
    w.x.close();
    other.close();
  },
);
