import { freePort } from '@porch/demo';
import { TileSource } from '@porch/screen';
import { encodeHandled, encodeRelayFrame, frameKinds, HandledCount, PacedLine } from '@porch/wire';
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateRawSync } from 'node:zlib';
import { WebSocket, WebSocketServer } from 'ws';
import { dist, processorMs, sleep, until } from './bench-house.ts';
import { drawnScenes, recordedScenes, type Scene } from './scene.ts';
import { cut, sealUnit } from './screen-bench.ts';

/** The same messages again and again, each time as a new generation of the display. */
const PASSES = 14;
/** Compilers first have to see what is done often. */
const WARM_PASSES = 8;
const MESSAGE_BYTES = 64 * 1024;
/** How many messages viewers may be behind the source. */
const MOST_BEHIND = 8;
/** What has not come after so long was left out, since a viewer's line had no room. */
const SKIPPED_MS = 40;
const deflate = (bytes: Uint8Array) => deflateRawSync(bytes, { level: 1 });

/** The relay's processor time for each delivered message, beside nginx passing on messages of the same sizes. */
export async function relayBench(options: { corpus?: string; json?: boolean }): Promise<void> {
  const scenes = options.corpus ? recordedScenes(options.corpus) : drawnScenes();
  const messages = messagesOf(scenes.filter((scene) => scene.kind !== 'film' && scene.kind !== 'idle'));
  const meanBytes = messages.reduce((sum, m) => sum + m.length, 0) / messages.length;
  const hasNginx = spawnSync('nginx', ['-v']).status === 0;
  const rows = [];
  for (const viewers of [1, 4]) {
    const relay = await throughRelay(messages, viewers);
    const nginx = hasNginx ? await throughNginx(messages, viewers) : undefined;
    rows.push({ viewers, relay, nginx, ratio: nginx && relay / nginx });
  }
  if (options.json)
    process.stdout.write(`${JSON.stringify({ messages: messages.length, meanBytes, rows }, undefined, 2)}\n`);
  else {
    process.stdout.write(`${messages.length} messages of ${Math.round(meanBytes)} bytes on average\n`);
    for (const { viewers, relay, nginx, ratio } of rows)
      process.stdout.write(
        `${viewers} viewer${viewers > 1 ? 's' : ''}: relay ${(relay * 1000).toFixed(0)} µs for each delivered message${nginx && ratio ? `, nginx ${(nginx * 1000).toFixed(0)} µs, ratio ${ratio.toFixed(2)}` : '; nginx is not installed (Debian: nginx-light)'}\n`,
      );
  }
}

/** Sealed messages as a source sends them; each scene is a generation of the display. */
function messagesOf(scenes: readonly Scene[]): Uint8Array[] {
  const key = randomBytes(32);
  const out: Uint8Array[] = [];
  let number = 0;
  let generation = 0;
  for (const scene of scenes) {
    const picture = new Uint32Array(scene.width * scene.height);
    const source = new TileSource(scene.width, scene.height, { deflate, firstNumber: number + 1, now: () => 0 });
    generation++;
    scene.rewind();
    for (let frame = scene.next(picture); frame; frame = scene.next(picture)) {
      for (const [x, y, w, h] of frame.rects)
        source.put({ x, y, width: w, height: h }, cut(picture, scene.width, x, y, w, h));
      for (let unit = source.next(MESSAGE_BYTES); unit; unit = source.next(MESSAGE_BYTES)) {
        number = unit.number;
        out.push(sealUnit(unit, key, generation));
      }
    }
  }
  return out;
}

/** All passes, one message after the other; the generation grows with each scene of each pass. */
function* passesOf(messages: readonly Uint8Array[]): Generator<{ message: Uint8Array; isFirstMeasured: boolean }> {
  const last = generationOf(messages.at(-1));
  for (let pass = 0; pass < PASSES; pass++)
    for (const [i, message] of messages.entries()) {
      const again = message.slice();
      new DataView(again.buffer).setUint32(GENERATION_AT, generationOf(message) + pass * last);
      yield { message: again, isFirstMeasured: pass === WARM_PASSES && i === 0 };
    }
}
/** Where the header has the generation. */
const GENERATION_AT = 12;
const generationOf = (message: Uint8Array | undefined): number =>
  message ? new DataView(message.buffer, message.byteOffset).getUint32(GENERATION_AT) : 0;

async function throughRelay(messages: readonly Uint8Array[], viewers: number): Promise<number> {
  const host = spawn(process.execPath, [join(dist, 'bench-relay-host.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  try {
    const port = await firstLine(host);
    let delivered = 0;
    let skipped = 0;
    let onDelivered: () => void = () => undefined;
    for (let n = 0; n < viewers; n++) {
      const viewer = await opened(`ws://127.0.0.1:${port}/viewer`);
      const handled = new HandledCount((total) => viewer.send(lineFrame(1 + n, total)));
      viewer.on('message', (data: Buffer) => {
        if (data[1] !== SCREEN) return;
        delivered++;
        onDelivered();
        handled.add(data.byteLength);
      });
    }
    const source = await opened(`ws://127.0.0.1:${port}/source`);
    let onRoom: () => void = () => undefined;
    const line = new PacedLine({ send: (bytes) => source.send(bytes), onRoom: () => onRoom() });
    source.on('message', (data: Buffer) => {
      if (data[1] !== SCREEN) line.handled(Number(data.readBigUInt64BE(data.length - 8)));
    });
    let before = { ms: 0, delivered: 0 };
    let i = 0;
    for (const { message, isFirstMeasured } of passesOf(messages)) {
      if (isFirstMeasured) before = { ms: processorMs(host.pid ?? 0), delivered };
      while (!line.hasRoom) {
        line.noteStarved();
        await new Promise<void>((resolve) => (onRoom = resolve));
      }
      message.set([0, viewers + 1], 4);
      line.send(message);
      i++;
      // Viewers that keep up: one that falls behind is spared messages, which is another measure.
      while (i * viewers - delivered - skipped > MOST_BEHIND * viewers) {
        const wasDelivered = delivered;
        await Promise.race([new Promise<void>((resolve) => (onDelivered = resolve)), sleep(SKIPPED_MS)]);
        if (delivered === wasDelivered) skipped = i * viewers - delivered;
      }
    }
    await until('everything to arrive', () => line.inFlightBytes === 0);
    await sleep(200);
    return (processorMs(host.pid ?? 0) - before.ms) / (delivered - before.delivered);
  } finally {
    host.kill('SIGKILL');
  }
}

/** One message to nginx for each viewer: what it takes in it gives out once. */
async function throughNginx(messages: readonly Uint8Array[], viewers: number): Promise<number> {
  const folder = mkdtempSync(join(tmpdir(), 'bench-nginx-'));
  const sink = new WebSocketServer({ port: 0, host: '127.0.0.1', perMessageDeflate: false });
  let arrived = 0;
  let onArrived: () => void = () => undefined;
  sink.on('connection', (socket) =>
    socket.on('message', () => {
      arrived++;
      onArrived();
    }),
  );
  const port = await freePort();
  writeFileSync(join(folder, 'nginx.conf'), nginxConfig(folder, port, (sink.address() as AddressInfo).port));
  const nginx = spawn('nginx', ['-p', folder, '-c', join(folder, 'nginx.conf')], {
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  try {
    const lines = [];
    for (let n = 0; n < viewers; n++) lines.push(await opened(`ws://127.0.0.1:${port}/`));
    let before = { ms: 0, arrived: 0 };
    let i = 0;
    for (const { message, isFirstMeasured } of passesOf(messages)) {
      if (isFirstMeasured) before = { ms: processorMs(nginx.pid ?? 0), arrived };
      for (const line of lines) line.send(message);
      i++;
      while (i * viewers - arrived > MOST_BEHIND * viewers) await new Promise<void>((resolve) => (onArrived = resolve));
    }
    await until('everything to arrive', () => arrived === messages.length * PASSES * viewers);
    return (processorMs(nginx.pid ?? 0) - before.ms) / (arrived - before.arrived);
  } finally {
    nginx.kill('SIGKILL');
    sink.close();
    for (const client of sink.clients) client.terminate();
    rmSync(folder, { recursive: true, force: true });
  }
}

const SCREEN = 1;
const lineFrame = (seat: number, total: number): Uint8Array =>
  encodeRelayFrame({
    channel: 'line',
    kind: frameKinds.line.handled,
    senderSeat: seat,
    payload: encodeHandled(total),
  });

function opened(url: string): Promise<WebSocket> {
  return new Promise((resolve, reject) => {
    // A fresh nginx may need a moment before it listens.
    const attempt = (left: number) => {
      const socket = new WebSocket(url, { perMessageDeflate: false });
      socket.once('open', () => resolve(socket));
      socket.once('error', (error) => (left ? setTimeout(() => attempt(left - 1), 100) : reject(error)));
    };
    attempt(30);
  });
}
const firstLine = (child: ChildProcess) =>
  new Promise<number>((resolve) => child.stdout?.once('data', (data: Buffer) => resolve(Number(data))));

const nginxConfig = (folder: string, port: number, sinkPort: number) => `
daemon off; master_process off; worker_processes 1; error_log stderr error; pid ${folder}/pid;
events { worker_connections 64; }
http {
  access_log off;
  client_body_temp_path ${folder}/body; proxy_temp_path ${folder}/proxy; fastcgi_temp_path ${folder}/fastcgi;
  uwsgi_temp_path ${folder}/uwsgi; scgi_temp_path ${folder}/scgi;
  server {
    listen 127.0.0.1:${port};
    location / {
      proxy_pass http://127.0.0.1:${sinkPort}; proxy_http_version 1.1;
      proxy_set_header Upgrade $http_upgrade; proxy_set_header Connection upgrade; proxy_read_timeout 1h;
    }
  }
}
`;
