import { spawn, spawnSync } from 'node:child_process';
import type { Scene } from './scene.ts';

/** What a general-purpose encoder makes of a scene; the first frame is not counted. */
export interface Yardstick {
  readonly name: string;
  readonly bytesPerFrame: number;
  readonly msPerFrame: number;
}

export const yardsticks = [
  {
    name: 'libx264 ultrafast crf 18 4:4:4',
    args: ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '18', '-pix_fmt', 'yuv444p'],
  },
  {
    name: 'libx264 veryfast crf 18 4:4:4',
    args: ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '18', '-pix_fmt', 'yuv444p'],
  },
  { name: 'libx264rgb ultrafast lossless', args: ['-c:v', 'libx264rgb', '-preset', 'ultrafast', '-qp', '0'] },
] as const;

export const hasEncoder = (): boolean => spawnSync('ffmpeg', ['-version'], { stdio: 'ignore' }).status === 0;

/** Encodes a scene on one thread. Processor time is that of the encoder less that of taking the frames in. */
export async function measureEncoder(scene: Scene, args: readonly string[]): Promise<Omit<Yardstick, 'name'>> {
  const encoded = await run(scene, ['-threads', '1', ...args]);
  const taken = await run(scene, ['-c:v', 'rawvideo']);
  const [, ...sizes] = encoded.sizes;
  return {
    bytesPerFrame: sizes.reduce((sum, size) => sum + size, 0) / Math.max(1, sizes.length),
    msPerFrame: Math.max(0.01, encoded.processorMs - taken.processorMs) / Math.max(1, encoded.sizes.length),
  };
}

async function run(scene: Scene, args: readonly string[]): Promise<{ sizes: number[]; processorMs: number }> {
  scene.rewind();
  const input = ['-f', 'rawvideo', '-pix_fmt', 'bgr0', '-s', `${scene.width}x${scene.height}`, '-r', '20', '-i', '-'];
  const child = spawn('ffmpeg', ['-hide_banner', '-benchmark', ...input, ...args, '-f', 'framecrc', '-'], {
    stdio: ['pipe', 'pipe', 'pipe'],
  });
  let [out, said] = ['', ''];
  child.stdout.on('data', (part: Buffer) => (out += part.toString()));
  child.stderr.on('data', (part: Buffer) => (said += part.toString()));
  const ended = new Promise<number | null>((resolve) => child.on('close', resolve));
  const picture = new Uint32Array(scene.width * scene.height);
  while (scene.next(picture))
    if (!child.stdin.write(Buffer.from(picture.buffer.slice(0))))
      await new Promise((resolve) => child.stdin.once('drain', resolve));
  child.stdin.end();
  if ((await ended) !== 0) throw new Error(`ffmpeg failed: ${said.slice(-400)}`);
  const times = /utime=([\d.]+)s stime=([\d.]+)s/.exec(said);
  const sizes = out
    .split('\n')
    .filter((line) => line && !line.startsWith('#'))
    .map((line) => Number(line.split(',')[4]));
  return { sizes, processorMs: (Number(times?.[1] ?? 0) + Number(times?.[2] ?? 0)) * 1000 };
}
