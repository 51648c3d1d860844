import {
  LocalPicture,
  markColour,
  TechnicianClipboard,
  TechnicianDrawing,
  WatchedPictures,
  type LiveConnection,
} from '@porch/client';
import type { Permission } from '@porch/core';
import { XConnection } from '@porch/doorstep';
import { randomBytes } from 'node:crypto';
import { allow } from './allow.ts';
import { BenchHouse, processorMs, sleep, until } from './bench-house.ts';
import { cameraRows } from './camera-bench.ts';
import { codecs } from './codecs.ts';
import { handsOffRows } from './hands-off-bench.ts';
import { KeyTimer, KEYS_NEED } from './key-timer.ts';
import { measured, printRows } from './measured.ts';
import { quantile } from './numbers.ts';
import { ownScreenRows } from './own-screen-bench.ts';
import type { Row } from './row.ts';
import { soundRows } from './sound-bench.ts';

const WIDTH = 1920;
const HEIGHT = 1080;
const STROKES = 60;
/** As fast as a browser draws. */
const POINT_MS = 16;

/** What each ability costs on a real desktop of 1920×1080, through service and Doorstep. */
export async function abilitiesBench(options: { seconds: string; json?: boolean }): Promise<void> {
  const house = await BenchHouse.openWithTickets();
  try {
    const rest = await house.signedIn();
    const started = await rest.start({ ticketRef: 'MF-201' });
    const { link } = await rest.invite(started.session.id, { way: 'ticket-comment' });
    const technician = await house.technician(rest, started.session.id);
    const { desktop, person, doorstepPid } = await house.withDoorstep(link, WIDTH, HEIGHT);
    await until('the session', () => technician.state.phase.name === 'live');
    const allowed = (permission: Permission) => allow(technician, permission, () => person.answer(true, 1_200));
    for (const permission of ['view-screen', 'draw-on-screen'] as const) await allowed(permission);
    const look = new WatchedPictures(technician);
    const picture = new LocalPicture(technician, 0, codecs);
    look.open(picture);
    await until('the picture', () => picture.viewer.picture.isComplete);
    const there = { display: desktop.display, person, doorstepPid };
    const rows = await measured([
      ['drawing', () => drawing(technician, picture, desktop.display, doorstepPid, Number(options.seconds))],
      ['clipboard', () => clipboards(technician, picture, desktop.display, allowed)],
      ['sound', () => soundRows(technician, desktop, doorstepPid, allowed)],
      ['camera', () => cameraRows(technician, doorstepPid, allowed)],
      ['hands off', () => handsOffRows(technician, picture, there, allowed)],
      ['own screen', () => ownScreenRows(technician, there, allowed)],
    ]);
    printRows(rows, options);
    look.close();
    person.close();
    technician.close();
  } finally {
    await house.close();
  }
}

/** From a stroke to pixels on their desktop, and what a pen costs that does not rest. */
async function drawing(
  technician: LiveConnection,
  picture: LocalPicture,
  display: string,
  doorstepPid: number,
  seconds: number,
): Promise<Row[]> {
  const x = await XConnection.open(display, () => undefined);
  const colour = parseInt(markColour(technician.seat).slice(1), 16);
  const pixel = async (px: number, py: number) => {
    const { data } = await x.ask<{ data: Buffer }>((cb) => x.client.GetImage(2, x.root, px, py, 1, 1, 0xffffffff, cb));
    return data.readUIntLE(0, 3);
  };
  const pen = new TechnicianDrawing(technician, () => picture.aim.update);
  const waits: number[] = [];
  for (let i = 0; i < STROKES; i++) {
    const [px, py] = [200 + (i % 10) * 100, 200 + Math.floor(i / 10) * 100];
    const at = (dx: number) => ({ x: (px + dx) / WIDTH, y: py / HEIGHT });
    const startedAt = performance.now();
    pen.mark({ kind: 'pen', points: [at(-20), at(20)] }, 0);
    while ((await pixel(px, py)) !== colour) await new Promise((resolve) => setImmediate(resolve));
    waits.push(performance.now() - startedAt);
    await sleep(50);
  }
  pen.unmark('all');
  await sleep(2_000);
  const percent = await costOfPen(pen, doorstepPid, seconds);
  pen.close();
  x.close();
  return [
    {
      what: 'drawing: a stroke to pixels on their desktop, on loopback, median / p95',
      value: `${(quantile(waits, 0.5) ?? 0).toFixed(1)} / ${(quantile(waits, 0.95) ?? 0).toFixed(1)} ms`,
      aim: '40 ms',
    },
    {
      what: `drawing: a pen that runs for ${seconds} s, 60 points a second, at the source beyond its rest`,
      value: `${percent.toFixed(1)} % of a core`,
      aim: '5 %',
    },
  ];
}

const CLIP_BYTES = 50 * 1024 * 1024;

/** How long keys take while 50 MB are put onto their clipboard, and while nothing is. */
async function clipboards(
  technician: LiveConnection,
  picture: LocalPicture,
  display: string,
  agree: (permission: Permission) => Promise<void>,
): Promise<Row[]> {
  await agree(KEYS_NEED);
  await agree('give-clipboard');
  const keys = await KeyTimer.open(technician, picture, display);
  let count = 0;
  const before = await keys.p95(() => ++count > 60);
  const clipboard = new TechnicianClipboard(technician);
  const startedAt = performance.now();
  let tookMs: number | undefined;
  const putting = clipboard.put('image', randomBytes(CLIP_BYTES)).then(() => (tookMs = performance.now() - startedAt));
  const during = await keys.p95(() => tookMs !== undefined);
  await putting;
  clipboard.close();
  keys.close();
  return [
    {
      what: `clipboard: a key while 50 MB are put there (${((tookMs ?? 0) / 1_000).toFixed(1)} s), p95, and when nothing moves`,
      value: `${during.toFixed(0)} ms, ${before.toFixed(0)} ms`,
      aim: '50 ms more',
    },
  ];
}

/** In percent of a core, beyond what the source needs at rest. */
async function costOfPen(pen: TechnicianDrawing, doorstepPid: number, seconds: number): Promise<number> {
  const quiet = processorMs(doorstepPid);
  await sleep(seconds * 1_000);
  const idleMs = processorMs(doorstepPid) - quiet;
  const before = processorMs(doorstepPid);
  const startedAt = performance.now();
  let line = pen.begin('pen', { x: 0.5, y: 0.5 }, 0);
  for (let t = 0; performance.now() - startedAt < seconds * 1_000; t++) {
    const angle = t / 25;
    line.add([{ x: 0.5 + 0.3 * Math.cos(angle) * Math.cos(angle / 9), y: 0.5 + 0.35 * Math.sin(angle) }]);
    // A hand lifts the pen every few seconds, and takes away what is in its way.
    if (t % 300 === 299) {
      line.end();
      if (t % 1_200 === 1_199) pen.unmark('all');
      line = pen.begin('pen', { x: 0.5, y: 0.5 }, 0);
    }
    await sleep(POINT_MS);
  }
  line.end();
  const took = performance.now() - startedAt;
  return ((processorMs(doorstepPid) - before - idleMs) / took) * 100;
}
