import { allPermissions, showingPermissions } from '@porch/core';
import {
  inBackground,
  PictureLine,
  SealedLine,
  WatchedPictures,
  type LiveConnection,
  type PicturePort,
  type RestClient,
} from '@porch/client';
import { nodeCodecs } from '@porch/doorstep';
import { liveSharePort, ScreenShare, type Monitor, type ScreenSource, type ScreenWatcher } from '@porch/host';
import { pictureChannel, signGrant, startOf } from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';
import { BenchHouse, processorMs, residentBytes, sleep, until } from './bench-house.ts';
import { drawnScenes } from './scene.ts';

const COUNTS = [1, 10, 100, 300];
const MEMORY_SESSIONS = 12;
const TICK_MS = 200;
/** Of all sessions, how many are worked in at any moment. */
const ACTIVE_SHARE = 0.1;
const GRANT_MS = 3_600_000;

interface OpenSession {
  readonly screen: BenchScreen;
  close(): void;
}

/** What sessions cost the service: memory of one at 1080p with somebody who looks, and processor time of many small ones. */
export async function sessionsBench(options: { seconds: string; json?: boolean }): Promise<void> {
  const seconds = Number(options.seconds);
  const house = await BenchHouse.open();
  try {
    const memory = await measureMemory(house);
    const rest = await house.signedIn();
    const open: OpenSession[] = [];
    const idleMs = await spentMs(house, [], seconds);
    const rows = [];
    for (const count of COUNTS) {
      while (open.length < count) open.push(await openSession(house, rest, 256, 160));
      await sleep(3_000);
      const own = process.cpuUsage();
      const ms = (await spentMs(house, open, seconds)) - idleMs;
      const { user, system } = process.cpuUsage(own);
      rows.push({
        count,
        percentOfCore: ms / seconds / 10,
        percentEach: ms / seconds / 10 / count,
        // Above nine tenths, this program and not the service is what limits.
        loadPercent: (user + system) / seconds / 10_000,
      });
    }
    const [, base] = rows;
    const result = {
      memoryMegabytesEach: memory / 1024 ** 2,
      rows: rows.map((r) => ({ ...r, againstLinear: r.percentEach / (base?.percentEach ?? 1) })),
    };
    if (options.json) process.stdout.write(`${JSON.stringify(result, undefined, 2)}\n`);
    else {
      process.stdout.write(`memory: ${result.memoryMegabytesEach.toFixed(2)} MB a session, 1920×1080, one who looks\n`);
      for (const r of result.rows)
        process.stdout.write(
          `${r.count} sessions, a tenth of them worked in: ${r.percentOfCore.toFixed(1)} % of a core, ${r.percentEach.toFixed(3)} % each, ${r.againstLinear.toFixed(2)} × that of ten (this program: ${r.loadPercent.toFixed(0)} %)\n`,
        );
    }
    for (const session of open) session.close();
  } finally {
    await house.close();
  }
}

async function measureMemory(house: BenchHouse): Promise<number> {
  const rest = await house.signedIn();
  const [scene] = drawnScenes();
  const picture = new Uint32Array(1920 * 1080);
  scene?.next(picture);
  const open = [await openSession(house, rest, 1920, 1080, picture)];
  await sleep(3_000);
  const before = residentBytes(house.servicePid);
  for (let n = 0; n < MEMORY_SESSIONS; n++) open.push(await openSession(house, rest, 1920, 1080, picture));
  await sleep(3_000);
  const each = (residentBytes(house.servicePid) - before) / MEMORY_SESSIONS;
  for (const session of open) session.close();
  return each;
}

/** Processor milliseconds of the service while a tenth of these sessions is worked in. */
async function spentMs(house: BenchHouse, open: readonly OpenSession[], seconds: number): Promise<number> {
  const before = processorMs(house.servicePid);
  let due = 0;
  for (let tick = 0; tick < (seconds * 1000) / TICK_MS; tick++) {
    for (due += open.length * ACTIVE_SHARE; due >= 1; due--)
      open[Math.floor(Math.random() * open.length)]?.screen.change(tick);
    await sleep(TICK_MS);
  }
  return processorMs(house.servicePid) - before;
}

async function openSession(
  house: BenchHouse,
  rest: RestClient,
  width: number,
  height: number,
  picture?: Uint32Array,
): Promise<OpenSession> {
  const started = await rest.start({});
  const technician = await house.technician(rest, started.session.id);
  const doorstep = await house.bareDoorstep(started.link);
  await doorstep.command({ type: 'introduceCustomer', name: 'Bettina Crole', address: '' });
  await doorstep.command({ type: 'answerCall', answer: 'i-called' });
  await doorstep.command({ type: 'acceptSession', noticeVersion: 'bench' });
  const screen = new BenchScreen(width, height, picture);
  const line = new SealedLine(doorstep, pictureChannel);
  const codecs = await nodeCodecs();
  const share = new ScreenShare(
    liveSharePort(doorstep, new PictureLine(line), codecs.seal),
    screen,
    codecs,
    (error) => {
      throw error;
    },
  );
  const startOfSeat = (seat: number) => {
    const technician = Object.values(doorstep.state.participants).find((p) => p.seat === seat);
    return technician ? startOf(technician) : '';
  };
  doorstep.on('viewers', (viewers) => {
    inBackground('watching', share.setWatchers(viewers.map((v) => ({ ...v, start: startOfSeat(v.seat) }))));
  });
  doorstep.on('room', () => share.pump());
  doorstep.on('frame', ({ frame }) => {
    if (frame.channel === 'screen' && frame.senderSeat === 0) share.handleRelay(frame);
  });
  line.listen(({ from, message }) => share.take(from.seat, message));
  await allow(technician, doorstep);
  const looking = watch(technician);
  await until('the picture', () => looking.bytes() > 0);
  return {
    screen,
    close() {
      share.close();
      looking.close();
      technician.close();
      doorstep.close();
    },
  };
}

const [look = allPermissions[0]] = showingPermissions;

async function allow(technician: LiveConnection, doorstep: LiveConnection): Promise<void> {
  const askId = crypto.randomUUID();
  await technician.command({ type: 'askPermissions', askId, permissions: [look] });
  await until('the ask', () => doorstep.state.asks[askId]);
  const grant = signGrant(doorstep.keys, {
    sessionId: doorstep.sessionId,
    permission: look,
    technicianSignKey: technician.keys.signKey,
    technicianAgreeKey: technician.keys.agreeKey,
    number: doorstep.state.lastGrantNumber + 1,
    endsAtMs: Date.now() + GRANT_MS,
  });
  await doorstep.command({ type: 'grantAsk', askId, grants: [grant] });
}

/** Looks without decoding: what the service sees of a technician's page, and no more. */
function watch(connection: LiveConnection) {
  let bytes = 0;
  const look = new WatchedPictures(connection);
  const port: PicturePort = {
    display: 0,
    onResync: () => undefined,
    setKey: () => undefined,
    take(message) {
      bytes += message.length;
      connection.handled(message.length);
    },
    challenge: () =>
      Promise.resolve({ nonce: bytesToHex(crypto.getRandomValues(new Uint8Array(8))), needsTable: false }),
    holds: () => Promise.resolve(new Uint8Array(0)),
    forget: () => undefined,
  };
  look.open(port);
  return { bytes: () => bytes, close: () => look.close() };
}

/** A screen that somebody types on. */
class BenchScreen implements ScreenSource {
  readonly isWallpaperHidden = false;
  readonly #size: { width: number; height: number };
  readonly #pixels: Uint32Array;
  #watch: { watcher: ScreenWatcher; mayGrab: () => boolean } | undefined;

  constructor(width: number, height: number, pixels?: Uint32Array) {
    this.#size = { width, height };
    this.#pixels = pixels ?? new Uint32Array(width * height).fill(0xf4efe2);
  }
  size = () => this.#size;
  watchScreen(watcher: ScreenWatcher, mayGrab: () => boolean): Promise<() => void> {
    this.#watch = { watcher, mayGrab };
    const monitors: Monitor[] = [{ name: 'Bench', rect: { x: 0, y: 0, ...this.#size } }];
    watcher.onMonitors(monitors);
    this.captureAll();
    return Promise.resolve(() => (this.#watch = undefined));
  }
  answers(): Promise<void> {
    return Promise.resolve();
  }
  captureAll(): void {
    setTimeout(() => {
      if (!this.#watch) return;
      if (!this.#watch.mayGrab()) this.captureAll();
      else this.#watch.watcher.onPixels([{ rect: { x: 0, y: 0, ...this.#size }, pixels: this.#pixels, covered: [] }]);
    }, 5);
  }
  hideWallpaper = () => Promise.resolve();
  /** One letter. */
  change(n: number): void {
    const rect = { x: 16 + (n % 20) * 9, y: 40, width: 9, height: 16 };
    const pixels = Uint32Array.from({ length: 9 * 16 }, (_, i) => ((i * (n + 3)) % 5 ? 0xf4efe2 : 0x20303a));
    this.#watch?.watcher.onPixels([{ rect, pixels, covered: [] }]);
  }
}
