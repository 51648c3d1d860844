import { TileSource, ViewerPicture, type SourceUnit } from '@porch/screen';
import { contentHead, contentNonce, encodeFrameHeader, frameKinds, joinContent } from '@porch/wire';
import sharp from 'sharp';
import { createCipheriv, randomBytes } from 'node:crypto';
import { availableParallelism, cpus } from 'node:os';
import { deflateRawSync } from 'node:zlib';
import { chartOf } from './chart.ts';
import type { SceneCost } from './scene-cost.ts';
import { codecs } from './codecs.ts';
import { hasEncoder, measureEncoder, yardsticks } from './film-yardstick.ts';
import { drawnScenes, recordedScenes, type Scene } from './scene.ts';
import { quantile } from './numbers.ts';
import { writeFileSync } from 'node:fs';

const deflate = (bytes: Uint8Array) => deflateRawSync(bytes, { level: 1 });
const MESSAGE_BYTES = 64 * 1024;
const FRAME_MS = 33;

export interface ScreenBenchOptions {
  readonly corpus?: string;
  readonly json?: boolean;
  readonly chart?: string;
  readonly yardsticks: boolean;
}

/** Encodes each scene, checks every decoded picture, and holds bytes and time against general-purpose encoders. */
export async function screenBench(options: ScreenBenchOptions): Promise<void> {
  const scenes = options.corpus ? recordedScenes(options.corpus) : drawnScenes();
  const isCompared = options.yardsticks && hasEncoder();
  const costs: SceneCost[] = [];
  for (const scene of scenes) {
    const cost = await measureScene(scene);
    const measured = [];
    for (const { name, args } of isCompared ? yardsticks : [])
      measured.push({ name, ...(await measureEncoder(scene, args)) });
    costs.push({ ...cost, yardsticks: measured });
    if (!options.json) process.stderr.write(`  ${scene.name} measured\n`);
  }
  if (options.chart) writeFileSync(options.chart, chartOf(costs));
  const machine = { cores: availableParallelism(), model: cpus()[0]?.model, node: process.version };
  if (options.json) process.stdout.write(`${JSON.stringify({ machine, scenes: costs }, undefined, 2)}\n`);
  else print(costs, isCompared);
  const wrong = costs.filter((cost) => !cost.isExact);
  if (wrong.length) throw new Error(`what was decoded differs from the scene: ${wrong.map((w) => w.scene).join(', ')}`);
}

async function measureScene(scene: Scene): Promise<Omit<SceneCost, 'yardsticks'>> {
  const { width, height } = scene;
  const picture = new Uint32Array(width * height);
  let nowMs = 1_000;
  const source = new TileSource(width, height, { deflate, now: () => nowMs });
  source.mayLose = scene.kind === 'film';
  const viewer = new ViewerPicture(codecs.inflate);
  const key = randomBytes(32);
  const bytes: number[] = [];
  const times: number[] = [];
  let decodeMs = 0;
  let isExact = true;
  scene.rewind();
  for (let n = 0, frame = scene.next(picture); frame; n++, frame = scene.next(picture)) {
    nowMs += FRAME_MS;
    const pieces = frame.rects.map(([x, y, w, h]) => ({
      rect: { x, y, width: w, height: h },
      pixels: cut(picture, width, x, y, w, h),
    }));
    let [sent, ms] = [0, 0];
    const timed = <T>(work: () => T): T => {
      // Processor time, as of the yardstick: other programs on the machine do not count.
      const before = process.cpuUsage();
      const value = work();
      const used = process.cpuUsage(before);
      ms += (used.user + used.system) / 1000;
      return value;
    };
    timed(() => pieces.forEach(({ rect, pixels }) => source.put(rect, pixels)));
    const job = timed(() => source.takePhotoJob());
    if (job) {
      const { width: w, height: h } = job.rect;
      const before = process.cpuUsage();
      const jpeg = await sharp(job.rgb, { raw: { width: w, height: h, channels: 3 } })
        .jpeg({ quality: 75 })
        .toBuffer();
      const used = process.cpuUsage(before);
      ms += (used.user + used.system) / 1000;
      source.finishPhoto(job, jpeg);
    }
    for (;;) {
      const unit = timed(() => source.next(MESSAGE_BYTES, { x: width / 2, y: height / 2 }));
      if (!unit) break;
      sent += timed(() => sealUnit(unit, key)).length;
      decodeMs += await show(viewer, unit);
    }
    if (n > 0) {
      bytes.push(sent);
      times.push(ms);
    }
    if (!source.isLossy) isExact &&= isSame(viewer, picture);
  }
  // Photo tiles are compared after their refinement.
  nowMs += 2_000;
  for (let unit = source.next(MESSAGE_BYTES); unit; unit = source.next(MESSAGE_BYTES)) await show(viewer, unit);
  isExact &&= isSame(viewer, picture);
  const mean = (values: readonly number[]) => values.reduce((sum, v) => sum + v, 0) / Math.max(1, values.length);
  return {
    scene: scene.name,
    kind: scene.kind,
    frames: bytes.length + 1,
    bytesPerUpdate: mean(bytes),
    bytesP95: quantile(bytes, 0.95) ?? 0,
    sourceMsMedian: quantile(times, 0.5) ?? 0,
    sourceMsMean: mean(times),
    sourceMsP95: quantile(times, 0.95) ?? 0,
    decodeMsMean: decodeMs / Math.max(1, bytes.length),
    isExact,
  };
}

/** One rectangle of a picture. */
export function cut(picture: Uint32Array, stride: number, x: number, y: number, w: number, h: number): Uint32Array {
  const out = new Uint32Array(w * h);
  for (let row = 0; row < h; row++)
    out.set(picture.subarray((y + row) * stride + x, (y + row) * stride + x + w), row * w);
  return out;
}

/** As Doorstep seals it. */
export function sealUnit(unit: SourceUnit, key: Uint8Array, displayGeneration = 1): Uint8Array {
  const counter = BigInt(unit.number);
  const header = encodeFrameHeader({
    channel: 'screen',
    kind: frameKinds.screen[unit.kind],
    display: 0,
    senderSeat: 1,
    receiverSeat: 0,
    epoch: 1,
    displayGeneration,
    counter,
  });
  const head = contentHead(header, unit.clear);
  const cipher = createCipheriv('aes-256-gcm', key, contentNonce(counter));
  cipher.setAAD(head);
  return joinContent(head, Buffer.concat([cipher.update(unit.body), cipher.final(), cipher.getAuthTag()]));
}

async function show(viewer: ViewerPicture, unit: SourceUnit): Promise<number> {
  const photo = unit.kind === 'photo' ? await codecs.decodePhoto(unit.body.subarray(8)) : undefined;
  const startedAt = performance.now();
  const { lost } = viewer.take({ ...unit, generation: 1 }, photo);
  if (lost) throw new Error('a viewer that has everything lost a tile');
  return performance.now() - startedAt;
}

function isSame(viewer: ViewerPicture, picture: Uint32Array): boolean {
  const { rgba } = viewer;
  const words = new Uint32Array(rgba.buffer, rgba.byteOffset, picture.length);
  for (let i = 0; i < words.length; i++) {
    const p = words[i] ?? 0;
    if ((((p & 255) << 16) | (p & 0xff00) | ((p >> 16) & 255)) !== picture[i]) return false;
  }
  return true;
}

function print(costs: readonly SceneCost[], isCompared: boolean): void {
  const rows = [
    ['scene', 'kB/update', 'p95', 'source ms', 'median', 'p95', 'decode ms', 'bytes ÷ x264', 'time ÷ x264', 'exact'],
  ];
  for (const cost of costs) {
    const [yard] = cost.yardsticks;
    rows.push([
      cost.scene,
      (cost.bytesPerUpdate / 1024).toFixed(2),
      (cost.bytesP95 / 1024).toFixed(1),
      cost.sourceMsMean.toFixed(2),
      cost.sourceMsMedian.toFixed(2),
      cost.sourceMsP95.toFixed(1),
      cost.decodeMsMean.toFixed(2),
      yard ? (cost.bytesPerUpdate / yard.bytesPerFrame).toFixed(3) : '-',
      yard ? (cost.sourceMsMean / yard.msPerFrame).toFixed(3) : '-',
      cost.isExact ? 'yes' : 'NO',
    ]);
  }
  const widths = rows[0]?.map((_, i) => Math.max(...rows.map((row) => row[i]?.length ?? 0))) ?? [];
  for (const row of rows)
    process.stdout.write(
      `${row
        .map((cell, i) => cell.padEnd(widths[i] ?? 0))
        .join('  ')
        .trimEnd()}\n`,
    );
  if (!isCompared)
    process.stdout.write('Without ffmpeg there is no yardstick: install it, or read the times with care.\n');
  else {
    process.stdout.write(
      `\n÷ x264: against ${yardsticks[0].name} (lossy) on one thread, less the pipe. Beside it, a frame:\n`,
    );
    for (const cost of costs)
      process.stdout.write(
        `  ${cost.scene}: ${cost.yardsticks.map((y) => `${y.name} ${(y.bytesPerFrame / 1024).toFixed(2)} kB ${y.msPerFrame.toFixed(1)} ms`).join('; ')}\n`,
      );
  }
}
