import { TechnicianOwnScreen, type LiveConnection } from '@porch/client';
import { deflate, seal } from '@porch/client/node';
import type { Permission } from '@porch/core';
import type { PersonAtDesk } from '@porch/demo';
import { XConnection } from '@porch/doorstep';
import { ownScreenSender, type ScreenSource, type ScreenWatcher } from '@porch/host';
import { processorMs, sleep } from './bench-house.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';

const [WIDTH, HEIGHT] = [1920, 1080];
const CHANGES = 40;
const FIRST = 0x102030;
const SECONDS = 10;
/** A window that is scrolled, or a page that is turned. */
const WHOLE_MS = 100;

/** A screen of which this program says what is on it. */
class MadeScreen implements ScreenSource {
  readonly isWallpaperHidden = false;
  readonly #pixels = new Uint32Array(WIDTH * HEIGHT);
  #watcher: ScreenWatcher | undefined;
  size = () => ({ width: WIDTH, height: HEIGHT });
  watchScreen(watcher: ScreenWatcher): Promise<() => void> {
    this.#watcher = watcher;
    watcher.onMonitors([{ name: 'made', rect: { x: 0, y: 0, ...this.size() } }]);
    this.captureAll();
    return Promise.resolve(() => (this.#watcher = undefined));
  }
  answers = () => Promise.resolve();
  hideWallpaper = () => Promise.resolve();
  captureAll(): void {
    setImmediate(() => this.#tell());
  }
  fill(colour: number): void {
    this.#pixels.fill(colour);
    this.#tell();
  }
  /** Lines of words, as far as a packer can tell them from noise: moved on by so many rows. */
  write(turn: number): void {
    for (let y = 0; y < HEIGHT; y++) {
      const line = (y + turn * 24) >> 4;
      for (let x = 0; x < WIDTH; x++)
        this.#pixels[y * WIDTH + x] =
          y % 16 < 10 && Math.imul(line + (x >> 3), 0x9e3779b1) >>> 29 > 4 ? 0x1d2b2c : 0xfaf6ec;
    }
    this.#tell();
  }
  #tell(): void {
    const rect = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
    this.#watcher?.onPixels([{ rect, pixels: this.#pixels, covered: [] }]);
  }
}

/** From a change of the technician's screen to pixels in the window on their desktop, and what a busy one costs there. */
export async function ownScreenRows(
  technician: LiveConnection,
  { display, person, doorstepPid }: { display: string; person: PersonAtDesk; doorstepPid: number },
  agree: (permission: Permission) => Promise<unknown>,
): Promise<Row[]> {
  await agree('show-own-screen');
  const screen = new MadeScreen();
  const own = new TechnicianOwnScreen(technician);
  const codecs = { deflate, seal, encodeJpeg: undefined };
  const begun = performance.now();
  await own.begin('window', (line) =>
    ownScreenSender(technician, line, { screen, codecs }, (error) => {
      throw error;
    }),
  );
  screen.fill(FIRST);
  const x = await XConnection.open(display, () => undefined);
  let place = { x: 0, y: 0 };
  const middle = async () => {
    const read = x.ask<{ data: Buffer }>((cb) => x.client.GetImage(2, x.root, place.x, place.y, 1, 1, 0xffffffff, cb));
    return (await read).data.readUIntLE(0, 3);
  };
  const isThere = async () => {
    const found = await person.shown();
    if (found) place = { x: found.x + Math.floor(found.width / 2), y: found.y + Math.floor(found.height / 2) };
    return found !== undefined && (await middle()) === FIRST;
  };
  while (!(await isThere())) await sleep(20);
  const firstMs = performance.now() - begun;
  const waits: number[] = [];
  for (let i = 1; i <= CHANGES; i++) {
    await sleep(150);
    const startedAt = performance.now();
    screen.fill(FIRST + i);
    while ((await middle()) !== FIRST + i) await new Promise((resolve) => setImmediate(resolve));
    waits.push(performance.now() - startedAt);
  }
  const before = processorMs(doorstepPid);
  for (let turn = 0; turn < (SECONDS * 1_000) / WHOLE_MS; turn++) {
    screen.write(turn);
    await sleep(WHOLE_MS);
  }
  const percent = (processorMs(doorstepPid) - before) / (SECONDS * 10);
  own.close();
  x.close();
  const at = (part: number) => (quantile(waits, part) ?? 0).toFixed(1);
  return [
    { what: 'own screen: from the press to the picture in their window', value: `${firstMs.toFixed(0)} ms`, aim: '–' },
    {
      what: 'own screen: a change of all of 1920×1080 to pixels in their window, median / p95',
      value: `${at(0.5)} / ${at(0.95)} ms`,
      aim: '–',
    },
    {
      what: 'own screen: Doorstep while all of it moves on, ten times a second',
      value: `${percent.toFixed(1)} % of a core`,
      aim: '–',
    },
  ];
}
