import {
  FileTransfers,
  LocalPicture,
  markColour,
  TechnicianCamera,
  TechnicianClipboard,
  TechnicianDrawing,
  TechnicianHandsOff,
  WatchedPictures,
  type LiveConnection,
} from '@porch/client';
import { fileToSend } from '@porch/client/node';
import type { Permission } from '@porch/core';
import { SlowLine, type LineQuality, type PersonAtDesk, type XDesktop } from '@porch/demo';
import { XConnection } from '@porch/doorstep';
import { randomBytes } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { allow } from './allow.ts';
import { BenchHouse, lookAndWork, sleep, until } from './bench-house.ts';
import { codecs } from './codecs.ts';
import { KeyTimer } from './key-timer.ts';
import { measured, printRows } from './measured.ts';
import { quantile } from './numbers.ts';
import type { Row } from './row.ts';
import { clicksOverLine } from './sound-bench.ts';

const [WIDTH, HEIGHT] = [1280, 800];
const STROKES = 20;
const KEYS = 60;
/** What a bad line takes in a few seconds, or in a minute. */
const CLIP_BYTES = 128 * 1024;
/** A file that takes the line so long at its best. */
const FILE_MS = 8_000;
const ESCAPE = 9;
const PATIENCE_MS = 240_000;
const STALL_EVERY_MS = 5_000;
const STALL_MS = 1_000;
const MINUTE_MS = 60_000;
/** A desk that expects long breaks keeps places for longer than the usual 90 s. */
const PLACES_KEPT_SECONDS = '3600';

interface BadLine {
  readonly name: string;
  readonly quality: LineQuality;
  readonly doesStall?: boolean;
}
const badLines: readonly BadLine[] = [
  { name: '256 kbit/s, 20 ms', quality: { bytesPerSecond: 32_000, delayMs: 20 } },
  { name: '8 Mbit/s, 350 ms each way', quality: { bytesPerSecond: 1_000_000, delayMs: 350 } },
  {
    name: '8 Mbit/s, 20 ms, still for 1 s in each 5 s',
    quality: { bytesPerSecond: 1_000_000, delayMs: 20 },
    doesStall: true,
  },
];

/** Each ability over lines that are bad between the customer's computer and the service, and over a break. */
export async function linesBench(options: { line?: string; break: string; json?: boolean }): Promise<void> {
  const rows: Row[] = [];
  for (const [i, line] of badLines.entries())
    if (options.line === undefined || Number(options.line) === i + 1) rows.push(...(await over(line)));
  const minutes = Number(options.break);
  if (minutes) rows.push(...(await measured([[`a break of ${minutes} minutes`, () => overABreak(minutes)]])));
  printRows(rows, options);
}

interface World {
  readonly line: SlowLine;
  readonly quality: LineQuality;
  readonly technician: LiveConnection;
  readonly picture: LocalPicture;
  readonly desktop: XDesktop;
  readonly person: PersonAtDesk;
  agree(permission: Permission): Promise<void>;
}

async function inSession<T>(quality: LineQuality, work: (world: World) => Promise<T>): Promise<T> {
  const house = await BenchHouse.openWithTickets({ PORCH_GRACE_SECONDS: PLACES_KEPT_SECONDS });
  const line = await SlowLine.open(house.url, quality);
  try {
    const rest = await house.signedIn();
    const started = await rest.start({ ticketRef: 'MF-201' });
    const { link } = await rest.invite(started.session.id, { way: 'ticket-comment' });
    const technician = await house.technician(rest, started.session.id);
    const { desktop, person } = await house.withDoorstep(link, WIDTH, HEIGHT, { line });
    await until('the session', () => technician.state.phase.name === 'live', PATIENCE_MS);
    const agree = (permission: Permission) =>
      allow(technician, permission, () => person.answer(true, 1_200), PATIENCE_MS);
    for (const permission of lookAndWork) await agree(permission);
    const look = new WatchedPictures(technician);
    const picture = new LocalPicture(technician, 0, codecs);
    look.open(picture);
    await until('the picture', () => picture.viewer.picture.isComplete, PATIENCE_MS);
    const done = await work({ line, quality, technician, picture, desktop, person, agree });
    look.close();
    person.close();
    technician.close();
    return done;
  } finally {
    line.close();
    await house.close();
  }
}

const over = ({ name, quality, doesStall }: BadLine): Promise<Row[]> =>
  inSession(quality, async (world) => {
    const stop = doesStall ? stalling(world.line) : () => undefined;
    try {
      const rows = await measured([
        ['strokes', () => strokes(world)],
        ['clipboard', () => clipboard(world)],
        ['sound', () => sound(world)],
        ['camera', () => camera(world)],
        ['files', () => files(world)],
        ['hands off', () => handsOff(world)],
      ]);
      return rows.map(({ what, ...rest }) => ({ what: `${name} · ${what}`, ...rest }));
    } finally {
      stop();
    }
  });

/** Still for a moment, again and again. */
function stalling(line: SlowLine): () => void {
  let resume: ReturnType<typeof setTimeout> | undefined;
  const timer = setInterval(() => {
    line.stall();
    resume = setTimeout(() => line.resume(), STALL_MS);
  }, STALL_EVERY_MS);
  return () => {
    clearInterval(timer);
    clearTimeout(resume);
    line.resume();
  };
}

const spread = (waits: readonly number[]): string =>
  `${(quantile([...waits], 0.5) ?? NaN).toFixed(0)} / ${(quantile([...waits], 0.95) ?? NaN).toFixed(0)} ms`;

async function pixelOf(x: XConnection, px: number, py: number): Promise<number> {
  const { data } = await x.ask<{ data: Buffer }>((cb) => x.client.GetImage(2, x.root, px, py, 1, 1, 0xffffffff, cb));
  return data.readUIntLE(0, 3);
}

async function strokes({ technician, picture, desktop, quality, agree }: World): Promise<Row[]> {
  await agree('draw-on-screen');
  const x = await XConnection.open(desktop.display, () => undefined);
  const colour = parseInt(markColour(technician.seat).slice(1), 16);
  const pen = new TechnicianDrawing(technician, () => picture.aim.update);
  const waits: number[] = [];
  for (let i = 0; i < STROKES; i++) {
    const [px, py] = [100 + (i % 10) * 100, 200 + Math.floor(i / 10) * 100];
    const at = (dx: number) => ({ x: (px + dx) / WIDTH, y: py / HEIGHT });
    const startedAt = performance.now();
    pen.mark({ kind: 'pen', points: [at(-20), at(20)] }, 0);
    while ((await pixelOf(x, px, py)) !== colour) {
      if (performance.now() - startedAt > PATIENCE_MS) throw new Error('a stroke never came');
      await sleep(1);
    }
    waits.push(performance.now() - startedAt - quality.delayMs);
    await sleep(300);
  }
  pen.unmark('all');
  pen.close();
  x.close();
  return [
    {
      what: 'drawing: a stroke to pixels on their desktop, beyond the line’s delay, median / p95',
      value: spread(waits),
      aim: '40 ms over the line’s time',
    },
  ];
}

async function clipboard({ technician, picture, desktop, agree }: World): Promise<Row[]> {
  await agree('give-clipboard');
  const keys = await KeyTimer.open(technician, picture, desktop.display);
  let count = 0;
  const before = await keys.p95(() => ++count > KEYS);
  const clip = new TechnicianClipboard(technician);
  const startedAt = performance.now();
  let tookMs: number | undefined;
  const putting = clip.put('image', randomBytes(CLIP_BYTES)).finally(() => (tookMs = performance.now() - startedAt));
  const during = await keys.p95(() => tookMs !== undefined);
  await putting;
  clip.close();
  keys.close();
  return [
    {
      what: `clipboard: ${CLIP_BYTES / 1024} KiB put there`,
      value: `${((tookMs ?? 0) / 1_000).toFixed(1)} s`,
      aim: '–',
    },
    {
      what: 'clipboard: a key meanwhile, p95, and when nothing moves',
      value: `${during.toFixed(0)} ms, ${before.toFixed(0)} ms`,
      aim: '50 ms more',
    },
  ];
}

async function sound({ technician, desktop, agree }: World): Promise<Row[]> {
  if (!desktop.sound) throw new Error('there is no sound server');
  await agree('hear-sound');
  const { took, of } = await clicksOverLine(technician, desktop.sound, desktop.home);
  return [
    {
      what: 'sound: at their speakers → decoded at the technician, median / p95, and how many of them came',
      value: `${spread(took)}, ${took.length} of ${of}`,
      aim: 'it gives way to input and text first',
    },
  ];
}

async function camera({ technician, agree }: World): Promise<Row[]> {
  await agree('see-camera');
  let pictures = 0;
  const eye = new TechnicianCamera(technician, () => void pictures++);
  const asked = performance.now();
  eye.setOn(true);
  await until('the first picture', () => pictures > 0, PATIENCE_MS);
  const firstMs = performance.now() - asked;
  const before = pictures;
  await sleep(10_000);
  eye.close();
  return [
    {
      what: 'camera: to the first picture; then',
      value: `${(firstMs / 1_000).toFixed(1)} s; ${((pictures - before) / 10).toFixed(1)} a second`,
      aim: '–',
    },
  ];
}

async function files({ technician, quality, desktop, person, agree }: World): Promise<Row[]> {
  await agree('give-files');
  const sizeBytes = (quality.bytesPerSecond * FILE_MS) / 1_000;
  const path = join(desktop.home, '..', 'sailings.db');
  writeFileSync(path, randomBytes(sizeBytes));
  const source = await fileToSend(path);
  const transfers = new FileTransfers(technician);
  const id = await transfers.offer(source, technician.state.holderId ?? '');
  await person.answer(true, 1_200);
  const stage = () => technician.state.slices.files[id]?.stage;
  await until('it to move', () => stage() === 'moving' || stage() === 'arrived', PATIENCE_MS);
  const startedAt = performance.now();
  await until('the file', () => stage() === 'arrived', PATIENCE_MS);
  const tookMs = performance.now() - startedAt;
  await source.close();
  await transfers.close();
  const share = FILE_MS / tookMs;
  return [
    {
      what: `files: ${Math.round(sizeBytes / 1024)} KiB to their computer`,
      value: `${(tookMs / 1_000).toFixed(1)} s, ${(share * 100).toFixed(0)} % of the line`,
      aim: '–',
    },
  ];
}

async function handsOff({ technician, person, agree }: World): Promise<Row[]> {
  const off = new TechnicianHandsOff(technician);
  await agree('cover-screen');
  const startedAt = performance.now();
  await until('the cover', () => off.resting.some(({ what }) => what === 'screen'), PATIENCE_MS);
  const coveredMs = performance.now() - startedAt;
  const pressedAt = performance.now();
  await person.tapKey(ESCAPE);
  await until('the cover to be gone', () => off.resting.every(({ what }) => what !== 'screen'), PATIENCE_MS);
  const liftedMs = performance.now() - pressedAt;
  off.close();
  return [
    {
      what: 'hands off: from the yes until the technician reads that the screen is covered; from Escape until they read that it is not',
      value: `${coveredMs.toFixed(0)} ms; ${liftedMs.toFixed(0)} ms`,
      aim: '–',
    },
  ];
}

/** The line is gone for so long, and comes back: what is still there, and how soon. */
async function overABreak(minutes: number): Promise<Row[]> {
  return inSession({ bytesPerSecond: 1_000_000, delayMs: 20 }, async ({ line, technician, picture }) => {
    line.cut();
    await sleep(minutes * MINUTE_MS);
    const phase = technician.state.phase.name;
    line.mend();
    const mendedAt = performance.now();
    const standing = () => technician.state.standings[technician.participantId]?.['view-screen']?.name;
    const isThere = () =>
      technician.presence.some((one) => one.participantId === technician.state.holderId && one.isConnected);
    await until('Doorstep to be there again', isThere, PATIENCE_MS);
    const backMs = performance.now() - mendedAt;
    return [
      {
        what: `a break of ${minutes} minutes: the session meanwhile; Doorstep back after; the picture may be seen`,
        value: `${phase}; ${(backMs / 1_000).toFixed(1)} s; ${String(standing())}, ${picture.viewer.picture.isComplete ? 'whole' : 'not whole'}`,
        aim: 'nothing is lost',
      },
    ];
  });
}
