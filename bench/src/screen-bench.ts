import { fetchExchange, InputLease, LiveConnection, RestClient, type SocketLike } from '@porch/client';
import {
  createDatabase,
  deskSettings,
  emailOf,
  loadTechnicians,
  PASSWORD,
  PersonAtDesk,
  Processes,
  startDesktop,
  startPostgres,
} from '@porch/demo';
import { loadExtensions, XConnection } from '@porch/doorstep';
import { encodeAck, inflateInPlainCode, ViewerPicture } from '@porch/screen';
import { encodeFrame, frameKinds, makeKeys } from '@porch/wire';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync, chmodSync } from 'node:fs';
import { availableParallelism, cpus } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { deflateRawSync } from 'node:zlib';
import { WebSocket } from 'ws';

const WIDTH = 1920;
const HEIGHT = 1080;
const CLOCK_TICKS = 100;

export interface SceneResult {
  readonly scene: string;
  readonly updatesPerSecond: number;
  readonly kilobytesPerSecond: number;
  readonly sourceMsPerUpdate: number;
  readonly relayMsPerUpdate: number;
  /** Milliseconds of the yardstick: deflate level 1 of one whole picture in one go, on this machine, in this run. */
  readonly yardstickMs: number;
  /** Processor time of the source for an update, as a share of the yardstick. */
  readonly sourceRatio: number;
  readonly inputDelayMedianMs: number | undefined;
  readonly inputDelayP95Ms: number | undefined;
}

/** Processor milliseconds that a process has used. */
function processorMs(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
  return ((Number(fields[11]) + Number(fields[12])) * 1000) / CLOCK_TICKS;
}
const quantile = (values: readonly number[], q: number) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * q))];
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

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

export async function screenBench(options: { seconds: string; json?: boolean }): Promise<void> {
  const seconds = Number(options.seconds);
  const dist = dirname(fileURLToPath(import.meta.url));
  const folder = mkdtempSync('/var/tmp/zesty-porch-bench-');
  chmodSync(folder, 0o711);
  const processes = new Processes(randomBytes(6).toString('hex'));
  const postgres = await startPostgres({ folder: join(folder, 'postgres'), isThrowaway: true });
  try {
    const databaseUrl = await createDatabase(postgres, 'porch');
    const secret = join(folder, 'secret');
    writeFileSync(secret, randomBytes(32).toString('hex'), { mode: 0o600 });
    const env = {
      ...deskSettings,
      PORCH_DATABASE_URL: databaseUrl,
      PORCH_SECRET_FILE: secret,
      PORCH_PORT: '0',
      PORCH_LOG_LEVEL: 'error',
    };
    const first = await processes.startReady('service', join(dist, 'service.mjs'), env);
    const ended = new Promise((resolve) => first.child.once('exit', resolve));
    first.child.kill('SIGTERM');
    await ended;
    await loadTechnicians(databaseUrl);
    const service = await processes.startReady('service', join(dist, 'service.mjs'), env);
    const desktop = await startDesktop(processes, {
      name: 'the bench',
      home: join(folder, 'home'),
      width: WIDTH,
      height: HEIGHT,
      programs: 'all',
    });

    const rest = new RestClient(fetchExchange(service.url));
    rest.token = (await rest.signIn(emailOf('Pim Aldersey'), PASSWORD, 'token')).token;
    const started = await rest.start({});
    const technician = await new LiveConnection({
      ticket: () => rest.liveTicket(started.session.id),
      openSocket: (url) => new WebSocket(url) as unknown as SocketLike,
      keys: makeKeys(),
    }).ready();
    const person = await PersonAtDesk.at(desktop.display);
    const doorstep = processes.start(
      'Doorstep',
      process.execPath,
      [
        join(dist, 'doorstep.mjs'),
        'join',
        '--link',
        started.link,
        '--display',
        desktop.display,
        '--home',
        desktop.home,
        '--state',
        join(folder, 'state'),
      ],
      { stdio: ['ignore', 'ignore', 'inherit'] },
    );
    // The three questions of a customer who came without a page.
    for (let i = 0; i < 2; i++) await person.answer(true, 1_200);
    while (technician.state.phase.name !== 'live') await sleep(50);
    await technician.command({
      type: 'askPermissions',
      askId: crypto.randomUUID(),
      permissions: ['view-screen', 'control-input'],
    });
    await person.answer(true, 1_200);
    while (!Object.values(technician.state.standings[technician.participantId] ?? {}).some((s) => s.name === 'allowed'))
      await sleep(50);

    const picture = new ViewerPicture(inflateInPlainCode);
    let [updates, bytes] = [0, 0];
    let onUpdate: () => void = () => undefined;
    technician.on('frame', ({ frame, bytes: raw }) => {
      if (frame.channel !== 'screen') return;
      updates++;
      bytes += raw.byteLength;
      picture.take(frame.payload, frame.displayGeneration);
      technician.sendFrame(
        encodeFrame({
          ...frame,
          kind: frameKinds.screen.paintedAck,
          senderSeat: technician.seat,
          receiverSeat: 0,
          counter: 0n,
          payload: encodeAck(raw.byteLength),
        }),
      );
      onUpdate();
    });
    technician.watch(0, true);
    const lease = new InputLease(technician, () => ({
      update: picture.newestUpdate,
      display: 0,
      generation: Math.max(0, picture.generation),
    }));
    while (!picture.isComplete) await sleep(50);
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
        source: processorMs(doorstep.pid ?? 0),
        relay: processorMs(service.child.pid ?? 0),
        atMs: performance.now(),
      };
      const delays: number[] = [];
      await act(performance.now() + seconds * 1000, delays);
      await sleep(300);
      const took = (performance.now() - before.atMs) / 1000;
      const count = Math.max(1, updates - before.updates);
      const yardstick = yardstickMs();
      const sourceMs = (processorMs(doorstep.pid ?? 0) - before.source) / count;
      results.push({
        scene,
        updatesPerSecond: count / took,
        kilobytesPerSecond: (bytes - before.bytes) / 1024 / took,
        sourceMsPerUpdate: sourceMs,
        relayMsPerUpdate: (processorMs(service.child.pid ?? 0) - before.relay) / count,
        yardstickMs: yardstick,
        sourceRatio: sourceMs / yardstick,
        inputDelayMedianMs: quantile(delays, 0.5),
        inputDelayP95Ms: quantile(delays, 0.95),
      });
    };
    click(300, 400);
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
    await measure('scrolling', async (untilMs) => {
      while (performance.now() < untilMs) await sleep(50);
    });
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
    if (options.json)
      process.stdout.write(
        `${JSON.stringify({ machine: { cores: availableParallelism(), model: cpus()[0]?.model }, results }, undefined, 2)}\n`,
      );
    else print(results);
    x.close();
    person.close();
    lease.close();
    technician.close();
  } finally {
    await processes.stop();
    await postgres.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  process.exit(0);
}

function print(results: readonly SceneResult[]): void {
  const rows = results.map((r) => [
    r.scene,
    r.updatesPerSecond.toFixed(1),
    r.kilobytesPerSecond.toFixed(0),
    r.sourceMsPerUpdate.toFixed(1),
    r.relayMsPerUpdate.toFixed(2),
    r.sourceRatio.toFixed(3),
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
