import {
  markColour,
  type InputLease,
  TechnicianClipboard,
  TechnicianDrawing,
  TechnicianCamera,
  TechnicianSound,
} from '@porch/client';
import {
  askAndAgree,
  desktopWithCamera,
  desktopWithSound,
  dumpScreen,
  Ears,
  House,
  PressCounter,
  SlowLine,
  startWorking,
  toneFile,
  until,
} from '@porch/testkit';
import { execFileSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* What is done at a real screen over 256 kbit/s and 700 ms there and back, with stalls and a broken line. */
const QUALITY = { bytesPerSecond: 32_000, delayMs: 350 };
const [WIDTH, HEIGHT] = [1000, 600];
/** What waits behind all that is on such a line waits longer. */
const BEHIND_ALL_MS = 4_000;
let house: House;
beforeAll(async () => {
  house = await House.open();
});
afterAll(() => house.close());

const hashOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/** How long the half of some keys took at most to the screen. */
async function halfOfKeysWithinMs(lease: InputLease, counter: PressCounter): Promise<number> {
  const delaysMs: number[] = [];
  for (let n = 1; n <= 5; n++) {
    const pressedAtMs = performance.now();
    await counter.press(lease);
    delaysMs.push(performance.now() - pressedAtMs);
  }
  return delaysMs.sort((a, b) => a - b)[2] ?? Infinity;
}

async function onBadLine() {
  const line = await SlowLine.open(house.url, QUALITY);
  const s = await house.sessionUnderWay('Pim Aldersey', undefined, line.over);
  const d = await house.withDoorstep(s.link, { width: WIDTH, height: HEIGHT });
  const working = await startWorking(s.technician, d.person);
  return { ...s, ...d, ...working, line };
}

it('draws in the order in which it was drawn, over a stall and a broken line', async () => {
  const w = await onBadLine();
  await askAndAgree(w.technician, w.person, ['draw-on-screen']);
  const pen = new TechnicianDrawing(w.technician, () => w.picture.aim.update);
  const colour = parseInt(markColour(w.technician.seat).slice(1), 16);
  const isInk = (x: number, y: number) => dumpScreen(w.desktop.display, { x, y, width: 1, height: 1 })[0] === colour;
  const at = (x: number, y: number) => ({ x: x / WIDTH, y: y / HEIGHT });
  const line = pen.begin('pen', at(100, 200), 0);
  line.add([at(200, 200)]);
  await until('the line while it grows', () => isInk(150, 200));
  w.line.stall();
  line.add([at(300, 200)]);
  line.end();
  pen.mark({ kind: 'box', points: [at(400, 250), at(500, 350)] }, 0);
  pen.unmark('last');
  pen.mark({ kind: 'pen', points: [at(400, 150), at(500, 150)] }, 0);
  w.line.resume();
  await until('what came last', () => isInk(450, 150));
  expect([isInk(250, 200), isInk(400, 300)], 'the rest of the line, and not the box that was taken away').toEqual([
    true,
    false,
  ]);
  let echoes = 1;
  pen.listeners.on('marks', (marks) => (echoes = marks.length));
  await until('the picture to have it all', () => echoes === 0);
  w.line.cut();
  await until('the line to be missed', () => w.technician.status !== 'live');
  w.line.mend();
  await until('the line again', () => w.technician.status === 'live');
  expect(isInk(450, 150), 'a line that breaks takes nothing away').toBe(true);
  pen.unmark('all');
  await until('nothing of it', () => !dumpScreen(w.desktop.display).includes(colour));
  pen.close();
  w.line.close();
});

it('reads a picture from the clipboard whole though the line breaks, and a key never waits for it', async () => {
  const w = await onBadLine();
  await askAndAgree(w.technician, w.person, ['read-clipboard']);
  const clipboard = new TechnicianClipboard(w.technician);
  const bytes = Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]), randomBytes(300_000)]);
  execFileSync('xclip', ['-selection', 'clipboard', '-t', 'image/png', '-i'], {
    env: { ...process.env, DISPLAY: w.desktop.display },
    input: bytes,
    stdio: ['pipe', 'ignore', 'ignore'],
  });
  await until('the offer', () => clipboard.offer);
  const counter = await PressCounter.at(w.desktop.display);
  let isRead = false;
  let movedBytes = 0;
  clipboard.listeners.on('moving', (now) => (movedBytes = now?.movedBytes ?? movedBytes));
  const read = clipboard.read('image').then((got) => {
    isRead = true;
    return got;
  });
  await until('a part of it', () => movedBytes > 0);
  await counter.press(w.lease);
  expect(isRead).toBe(false);
  w.line.cut();
  await until('the line to be missed', () => w.technician.status !== 'live');
  w.line.mend();
  expect(hashOf(await read)).toBe(hashOf(bytes));
  counter.close();
  clipboard.close();
  w.line.close();
});

it('hears a tone beside a picture that moves, gives way to keys, and comes back after a broken line', async () => {
  const line = await SlowLine.open(house.url, QUALITY);
  const s = await house.sessionUnderWay('Pim Aldersey', undefined, line.over);
  const { desktop, sound } = await desktopWithSound(house, 'far away', { width: WIDTH, height: HEIGHT });
  const d = await house.withDoorstep(s.link, { desktop });
  const w = await startWorking(s.technician, d.person);
  await askAndAgree(s.technician, d.person, ['hear-sound']);
  const ears = new Ears();
  const hearing = new TechnicianSound(s.technician, ears.speaker);
  hearing.setOn(true);
  sound.play(toneFile(house.folder, 440));
  await until('the tone', () => ears.loudness(440, 100) > 0.25);
  // The whole screen changes again and again.
  const flicker = house.processes.start(
    'a flicker',
    'sh',
    ['-c', 'while :; do xsetroot -mod 16 7 -fg red -bg blue; xsetroot -mod 5 3 -fg green -bg white; done'],
    { env: { ...process.env, DISPLAY: d.desktop.display }, stdio: 'ignore' },
  );
  ears.forget();
  // It may be given less, and now and then nothing; never nothing for good.
  await until('two seconds of it beside the picture', () => ears.packets > 100);
  const counter = await PressCounter.at(d.desktop.display);
  expect(await halfOfKeysWithinMs(w.lease, counter), 'a key beside picture and sound').toBeLessThan(BEHIND_ALL_MS);
  flicker.kill('SIGKILL');
  line.cut();
  await until('the line to be missed', () => s.technician.status !== 'live');
  line.mend();
  await until('the line again', () => s.technician.status === 'live');
  ears.forget();
  await until('the tone again', () => ears.packets > 20);
  hearing.close();
  counter.close();
  line.close();
});

it('sees a camera in small pictures that come on, a key never waits for them, and a single one arrives whole over a broken line', async () => {
  const line = await SlowLine.open(house.url, QUALITY);
  const s = await house.sessionUnderWay('Pim Aldersey', undefined, line.over);
  const { desktop } = await desktopWithCamera(house, 'far away');
  const d = await house.withDoorstep(s.link, { desktop });
  const w = await startWorking(s.technician, d.person);
  await askAndAgree(s.technician, d.person, ['see-camera']);
  const seen: { readonly width: number; readonly atMs: number }[] = [];
  const camera = new TechnicianCamera(s.technician, ({ width }) => void seen.push({ width, atMs: performance.now() }));
  camera.setOn(true);
  await until('pictures', () => seen.length >= 12);
  // No larger than the line brings in time.
  expect(Math.max(...seen.slice(-4).map(({ width }) => width))).toBeLessThanOrEqual(640);
  const counter = await PressCounter.at(d.desktop.display);
  expect(await halfOfKeysWithinMs(w.lease, counter), 'a key beside the camera').toBeLessThan(BEHIND_ALL_MS);
  camera.setOn(false);
  let arrived = 0;
  camera.listeners.on('arriving', (share) => (arrived = share));
  const taking = camera.take();
  await until('a part of it', () => arrived > 0);
  expect(arrived).toBeLessThan(1);
  line.cut();
  await until('the line to be missed', () => s.technician.status !== 'live');
  line.mend();
  expect((await taking).width).toBe(1920);
  camera.setOn(true);
  const before = seen.length;
  await until('pictures again', () => seen.length > before + 1);
  camera.close();
  counter.close();
  line.close();
});
