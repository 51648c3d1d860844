import type { RestingWords } from '@porch/host';
import { createInterface } from 'node:readline';
import type { XEvent } from 'x11';
import type { Box } from '../server/box.ts';
import { XConnection } from '../server/connection.ts';
import { loadExtensions, type XExtensions } from '../server/extensions.ts';
import { selectRawEvents } from '../server/input-events.ts';
import { OwnDevices } from '../server/own-devices.ts';
import { readMonitors } from '../server/monitors-now.ts';
import { OwnWindow } from '../server/own-window.ts';
import { BlockedInput } from './blocked-input.ts';
import { CoverWindow } from './cover-window.ts';
import { LiftingKeys } from './lifting-keys.ts';
import { drawCard, drawStrip, STRIP } from './panel.ts';
import { GO, RestBegin, type RestSays } from './rest-lines.ts';

/*
 * A process of its own for each thing that rests. The X server gives everything back the moment it ends, and it ends by
 * itself: when the person says so, when Doorstep's pipe closes, when Doorstep stands still, and when its time is over.
 */

/** So often it is looked whether Doorstep was heard, and so many looks in vain end it: 2.5 s; a busy computer takes one. */
const LOOK_MS = 100;
const MOST_SILENT_LOOKS = 25;
/** Doorstep ends it at its time; without that it ends this much later. */
const LATE_MS = 500;
const CLOCK_MS = 1_000;
/** Beneath the bar. */
const STRIP_Y = 60;

const say = (words: RestSays): boolean => process.stdout.write(`${JSON.stringify(words)}\n`);
let connection: XConnection | undefined;
/** Whatever was taken is given back by the server as our connection ends: at once, and not only once we are gone. */
function giveBack(): void {
  const open = connection;
  connection = undefined;
  open?.close();
}
function end(): void {
  giveBack();
  process.exit(0);
}
function fail(why: unknown): void {
  process.stdout.write(`${JSON.stringify({ says: 'failed', why: String(why) } satisfies RestSays)}\n`, end);
}
function lifted(by: 'key' | 'stop'): void {
  // Theirs again at once, and not after Doorstep has heard it.
  giveBack();
  process.stdout.write(`${JSON.stringify({ says: 'lifted', by } satisfies RestSays)}\n`, end);
}

export async function runRest(display: string): Promise<void> {
  process.stdout.on('error', end);
  // A Ctrl-C in a terminal reaches the whole group; Doorstep decides what it means.
  process.on('SIGINT', () => undefined);
  let silentLooks = 0;
  setInterval(() => {
    if (++silentLooks > MOST_SILENT_LOOKS) end();
  }, LOOK_MS);
  const lines = createInterface({ input: process.stdin });
  let begun: Promise<() => Promise<void>> | undefined;
  lines.on('line', (line) => {
    silentLooks = 0;
    begun ??= prepare(display, RestBegin.parse(JSON.parse(line)));
    if (line === GO)
      begun
        .then((show) => show())
        .then(() => say({ says: 'in force' }))
        .catch(fail);
  });
  lines.on('close', end);
  await new Promise<never>(() => undefined);
}

/** Everything but the act itself; what comes back does it. */
async function prepare(display: string, { what, forMs, words }: RestBegin): Promise<() => Promise<void>> {
  const untilMs = performance.now() + forMs;
  setTimeout(end, forMs + LATE_MS);
  const x = await XConnection.open(display, () => undefined);
  connection = x;
  // It went by itself, and with it whatever was taken.
  x.onGone(() => connection && end());
  const extensions = await loadExtensions(x);
  const leftMs = () => untilMs - performance.now();
  const shown =
    what === 'input' ? prepareBlock(x, extensions, words, leftMs) : await prepareCover(x, extensions, words, leftMs);
  say({ says: 'ready', window: shown.window });
  return shown.begin;
}

interface Prepared {
  readonly window: number;
  begin(): Promise<void>;
}

/** Draws once a second, one drawing after the other. */
function keepDrawn(draw: () => Promise<void>): Promise<void> {
  let isDrawing = false;
  setInterval(() => {
    if (isDrawing) return;
    isDrawing = true;
    draw()
      .catch(fail)
      .finally(() => (isDrawing = false));
  }, CLOCK_MS);
  return draw();
}

function prepareBlock(x: XConnection, { xinput }: XExtensions, words: RestingWords, leftMs: () => number): Prepared {
  return {
    window: 0,
    begin: async () => {
      await BlockedInput.begin(x, xinput, { lifted, trouble: fail });
      const { width } = await x.size();
      const box = { x: Math.max(0, Math.round((width - STRIP.width) / 2)), y: STRIP_Y, ...STRIP };
      const strip = new OwnWindow(x, 'Zesty Porch rests', box, 0xfaf6ec);
      await keepDrawn(() => strip.draw(drawStrip(words, leftMs())));
      await x.flush();
    },
  };
}

async function prepareCover(
  x: XConnection,
  { xinput, fixes, randr }: XExtensions,
  words: RestingWords,
  leftMs: () => number,
): Promise<Prepared> {
  const monitors: Box[] = (await readMonitors(x, randr.majorOpcode)).map(({ rect }) => rect);
  const cover = await CoverWindow.create(x, fixes, monitors, end);
  const own = await OwnDevices.of(x, xinput);
  const keys = await LiftingKeys.read(x);
  x.client.on('event', (event: XEvent) => {
    if (!own.has(event.sourceId)) return;
    const keycode = event.detail ?? 0;
    if (event.name === 'XIRawKeyRelease') keys.release(keycode);
    // Nobody is left to click on what they do not see.
    const by = event.name === 'XIRawButtonPress' ? 'key' : event.name === 'XIRawKeyPress' && keys.press(keycode);
    if (by) lifted(by);
  });
  selectRawEvents(x, xinput);
  return {
    window: cover.id,
    begin: async () => {
      await cover.show();
      await keepDrawn(() => cover.draw((size) => drawCard(words, leftMs(), size)));
    },
  };
}
