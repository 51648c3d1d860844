import { InputLease, LocalPicture, WatchedPictures } from '@porch/client';
import { loadExtensions, XConnection } from '@porch/doorstep';
import { availableParallelism, cpus } from 'node:os';
import { deflateRawSync } from 'node:zlib';
import { BenchHouse, lookAndWork, processorMs, sleep, until } from './bench-house.ts';
import { codecs } from './codecs.ts';
import { quantile } from './numbers.ts';

const WIDTH = 1920;
const HEIGHT = 1080;
const QUIET_MS = 10_000;

export interface SceneResult {
  readonly scene: string;
  readonly updatesPerSecond: number;
  readonly kilobytesPerSecond: number;
  readonly sourceMsPerUpdate: number;
  readonly relayMsPerUpdate: number;
  /** Of one core. */
  readonly sourcePercent: number;
  readonly relayPercent: number;
  /** Milliseconds of the yardstick: deflate level 1 of one whole picture in one go, on this machine, in this run. */
  readonly yardstickMs: number;
  /** Processor time of the source for an update, as a share of the yardstick. */
  readonly sourceRatio: number;
  readonly inputDelayMedianMs: number | undefined;
  readonly inputDelayP95Ms: number | undefined;
}

/** The yardstick: compressing a whole screen of text-like pixels once. */
function yardstickMs(): number {
  const picture = Buffer.alloc(WIDTH * HEIGHT * 3, 0xff);
  for (let i = 0; i < picture.length; i += 7) picture[i] = (i * 31) & 255;
  const times = Array.from({ length: 5 }, () => {
    const startedAt = performance.now();
    deflateRawSync(picture, { level: 1 });
    return performance.now() - startedAt;
  });
  return quantile(times, 0.5) ?? 1;
}

export async function liveBench(options: { seconds: string; json?: boolean }): Promise<void> {
  const seconds = Number(options.seconds);
  const house = await BenchHouse.open();
  try {
    const rest = await house.signedIn();
    const started = await rest.start({});
    const technician = await house.technician(rest, started.session.id);
    const { desktop, person, doorstepPid } = await house.withDoorstep(started.link, WIDTH, HEIGHT);
    await until('the session', () => technician.state.phase.name === 'live');
    await technician.command({
      type: 'askPermissions',
      askId: crypto.randomUUID(),
      permissions: lookAndWork,
    });
    await person.answer(true, 1_200);

    const look = new WatchedPictures(technician);
    const picture = new LocalPicture(technician, 0, codecs);
    let [updates, bytes] = [0, 0];
    let onUpdate: () => void = () => undefined;
    const { viewer } = picture;
    const take = viewer.take.bind(viewer);
    viewer.take = (raw) => {
      bytes += raw.byteLength;
      take(raw);
    };
    picture.listeners.on('painted', () => {
      updates++;
      onUpdate();
    });
    look.open(picture);
    const lease = new InputLease(technician, () => picture.aim);
    while (!viewer.picture.isComplete) await sleep(50);
    while (lease.state.name !== 'open') {
      lease.open();
      await sleep(100);
    }
    const key = (name: string) => {
      lease.act({ act: 'key', key: name, isDown: true });
      lease.act({ act: 'key', key: name, isDown: false });
    };
    const click = (x: number, y: number) => {
      lease.act({ act: 'button', x, y, button: 'left', isDown: true });
      lease.act({ act: 'button', x, y, button: 'left', isDown: false });
    };
    const x = await XConnection.open(desktop.display, () => undefined);
    const { xtest } = await loadExtensions(x);

    const results: SceneResult[] = [];
    const measure = async (scene: string, act: (untilMs: number, delays: number[]) => Promise<void>) => {
      await sleep(500);
      const before = {
        updates,
        bytes,
        source: processorMs(doorstepPid),
        relay: processorMs(house.servicePid),
        atMs: performance.now(),
      };
      const delays: number[] = [];
      await act(performance.now() + seconds * 1000, delays);
      await sleep(300);
      const took = (performance.now() - before.atMs) / 1000;
      const count = Math.max(1, updates - before.updates);
      const yardstick = yardstickMs();
      const sourceMs = (processorMs(doorstepPid) - before.source) / count;
      results.push({
        scene,
        updatesPerSecond: count / took,
        kilobytesPerSecond: (bytes - before.bytes) / 1024 / took,
        sourceMsPerUpdate: sourceMs,
        relayMsPerUpdate: (processorMs(house.servicePid) - before.relay) / count,
        sourcePercent: (processorMs(doorstepPid) - before.source) / took / 10,
        relayPercent: (processorMs(house.servicePid) - before.relay) / took / 10,
        yardstickMs: yardstick,
        sourceRatio: sourceMs / yardstick,
        inputDelayMedianMs: quantile(delays, 0.5),
        inputDelayP95Ms: quantile(delays, 0.95),
      });
    };
    const wait = async (untilMs: number) => sleep(untilMs - performance.now());
    // The terminal's cursor does not blink.
    click(800, 600);
    // What came before leaves memory to be tidied up; a technician's quiet minute has no such thing.
    await sleep(QUIET_MS);
    await measure('nothing moves', async (untilMs) => wait(untilMs + QUIET_MS));
    click(300, 400);
    await sleep(500);
    await measure('a blinking caret', wait);
    await measure('typing', async (untilMs, delays) => {
      for (let n = 0; performance.now() < untilMs; n++) {
        const pressedAt = performance.now();
        const seen = new Promise<void>((resolve) => (onUpdate = resolve));
        key(n % 40 === 39 ? 'Enter' : String.fromCharCode(97 + (n % 26)));
        await Promise.race([seen, sleep(1_000)]);
        delays.push(performance.now() - pressedAt);
        await sleep(70);
      }
      onUpdate = () => undefined;
    });
    click(800, 600);
    lease.act({
      act: 'text',
      text: 'i=0; while [ $i -lt 100000 ]; do echo "$i the quick ferry leaves Tern Quay at $i past"; i=$((i+1)); sleep 0.02; done\n',
    });
    await measure('scrolling a terminal', wait);
    lease.act({ act: 'key', key: 'Control', isDown: true });
    key('c');
    lease.act({ act: 'key', key: 'Control', isDown: false });
    await measure('dragging a window', async (untilMs) => {
      xtest.FakeInput(6, 0, 0, x.root, 960, 98);
      xtest.FakeInput(4, 1, 0, 0, 0, 0);
      for (let n = 0; performance.now() < untilMs; n++) {
        xtest.FakeInput(
          6,
          0,
          0,
          x.root,
          960 + Math.round(300 * Math.sin(n / 20)),
          98 + Math.round(120 * (1 - Math.cos(n / 25))),
        );
        await x.flush();
        await sleep(16);
      }
      xtest.FakeInput(5, 1, 0, 0, 0, 0);
      await x.flush();
    });
    const line =
      'the quick ferry leaves Tern Quay for Marrowick Sound at half past, and the slow one not at all; '.repeat(3);
    house.processes.start(
      'a terminal',
      'xterm',
      ['-fullscreen', '-e', `i=0; while true; do echo "$i ${line}"; i=$((i+1)); sleep 0.012; done`],
      { env: { ...process.env, DISPLAY: desktop.display }, stdio: 'ignore' },
    );
    await sleep(1_500);
    await measure('scrolling a full screen', wait);
    if (options.json)
      process.stdout.write(
        `${JSON.stringify({ machine: { cores: availableParallelism(), model: cpus()[0]?.model }, results }, undefined, 2)}\n`,
      );
    else print(results);
    x.close();
    person.close();
    lease.close();
    look.close();
    technician.close();
  } finally {
    await house.close();
  }
}

function print(results: readonly SceneResult[]): void {
  const rows = results.map((r) => [
    r.scene,
    r.updatesPerSecond.toFixed(1),
    r.kilobytesPerSecond.toFixed(0),
    r.sourceMsPerUpdate.toFixed(1),
    r.relayMsPerUpdate.toFixed(2),
    r.sourceRatio.toFixed(3),
    `${r.sourcePercent.toFixed(1)} / ${r.relayPercent.toFixed(1)}`,
    r.inputDelayMedianMs === undefined
      ? '-'
      : `${r.inputDelayMedianMs.toFixed(0)} / ${(r.inputDelayP95Ms ?? 0).toFixed(0)}`,
  ]);
  const headings = [
    'scene (1920×1080)',
    'updates/s',
    'kB/s',
    'source ms/update',
    'relay ms/update',
    'source ÷ yardstick',
    '% of a core: source / relay',
    'key → picture ms (median / p95)',
  ];
  const widths = headings.map((h, i) => Math.max(h.length, ...rows.map((row) => row[i]?.length ?? 0)));
  for (const row of [headings, ...rows])
    process.stdout.write(
      `${row
        .map((cell, i) => cell.padEnd(widths[i] ?? 0))
        .join('  ')
        .trimEnd()}\n`,
    );
  process.stdout.write('Yardstick: deflate level 1 of one whole 1920×1080 picture, in the same run.\n');
}
