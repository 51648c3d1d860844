import { readdirSync, readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { brotliDecompressSync, constants, inflateRawSync } from 'node:zlib';

export interface SceneFrame {
  /** Changed rectangles: x, y, width, height. */
  readonly rects: readonly (readonly [number, number, number, number])[];
}
/** A screen that changes: `next` paints the next frame into a picture of words 0x00RRGGBB. */
export interface Scene {
  readonly name: string;
  /** What of the table this scene stands for. */
  readonly kind: SceneKind;
  readonly width: number;
  readonly height: number;
  rewind(): void;
  next(picture: Uint32Array): SceneFrame | undefined;
}
export type SceneKind = 'typing' | 'scrolling' | 'windows' | 'web' | 'film' | 'idle' | 'other';

const kinds: readonly [RegExp, SceneKind][] = [
  [/type/, 'typing'],
  [/web/, 'web'],
  [/scroll/, 'scrolling'],
  [/window/, 'windows'],
  [/video|film/, 'film'],
  [/idle/, 'idle'],
];
const kindOf = (name: string): SceneKind => kinds.find(([pattern]) => pattern.test(name))?.[1] ?? 'other';

/** Every recorded screen of a folder. */
export function recordedScenes(folder: string): Scene[] {
  const files = readdirSync(folder)
    .filter((name) => name.endsWith('.fsc'))
    .sort();
  if (!files.length) throw new Error(`${folder} holds no recorded screens (*.fsc)`);
  return files.map((name) => recordedScene(join(folder, name)));
}

/**
 * A recorded screen: "FSC1", a header's length (u32, little-endian), the header (raw deflate of JSON), then one brotli
 * stream of R G B rows for every rectangle of every frame; with the filter "sub" as differences to the left.
 */
function recordedScene(file: string): Scene {
  const bytes = readFileSync(file);
  if (bytes.toString('latin1', 0, 4) !== 'FSC1') throw new Error(`${file} is not a recorded screen`);
  const headerBytes = bytes.readUInt32LE(4);
  const header = JSON.parse(inflateRawSync(bytes.subarray(8, 8 + headerBytes)).toString()) as {
    w: number;
    h: number;
    filter: string;
    frames: { rects: [number, number, number, number][] }[];
  };
  let pixels: Buffer | undefined;
  const isDifference = header.filter === 'sub';
  let at = 0;
  let index = 0;
  return {
    name: basename(file, '.fsc'),
    kind: kindOf(basename(file)),
    width: header.w,
    height: header.h,
    rewind() {
      at = 0;
      index = 0;
    },
    next(picture) {
      pixels ??= brotliDecompressSync(bytes.subarray(8 + headerBytes), {
        params: { [constants.BROTLI_DECODER_PARAM_LARGE_WINDOW]: 1 },
      });
      const frame = header.frames[index++];
      if (!frame) {
        pixels = undefined;
        return undefined;
      }
      for (const [x, y, w, h] of frame.rects)
        for (let row = y; row < y + h; row++) {
          let [r, g, b] = [0, 0, 0];
          for (let to = row * header.w + x, end = to + w; to < end; to++, at += 3) {
            const [red = 0, green = 0, blue = 0] = [pixels[at], pixels[at + 1], pixels[at + 2]];
            r = isDifference ? (r + red) & 255 : red;
            g = isDifference ? (g + green) & 255 : green;
            b = isDifference ? (b + blue) & 255 : blue;
            picture[to] = (r << 16) | (g << 8) | b;
          }
        }
      return frame;
    },
  };
}

const WIDTH = 1920;
const HEIGHT = 1080;

/** Scenes that need no recordings: text that is typed and scrolled, a window that is dragged, a film. */
export function drawnScenes(): Scene[] {
  return [
    drawn('drawn-type', 120, (p, n) => {
      if (n === 0) return page(p, 0);
      const [x, y] = [200 + (n % 100) * 9, 300 + Math.floor(n / 100) * 20];
      glyph(p, x, y, n);
      return [[x, y, 9, 16]];
    }),
    drawn('drawn-scroll', 90, (p, n) => page(p, n * 23)),
    drawn('drawn-window', 90, (p, n) => {
      if (n === 0) page(p, 0);
      const was = at(n - 1);
      const is = at(n);
      background(p, was[0], was[1], 700, 500);
      windowAt(p, is[0], is[1]);
      return [
        [was[0], was[1], 700, 500],
        [is[0], is[1], 700, 500],
      ];
    }),
    drawn('drawn-film', 90, (p, n) => {
      if (n === 0) page(p, 0);
      for (let y = 300; y < 660; y++)
        for (let x = 600; x < 1240; x++) {
          const r = 128 + 100 * Math.sin((x + n * 7) / 50);
          const g = 128 + 100 * Math.sin((y + n * 3) / 40);
          const b = 128 + 60 * Math.sin((x + y) / 90 + n / 9) + ((x * 7 + y * 13 + n) % 9);
          p[y * WIDTH + x] = (r << 16) | (g << 8) | b;
        }
      return [[600, 300, 640, 360]];
    }),
  ];
}

type Draw = (picture: Uint32Array, n: number) => [number, number, number, number][];

function drawn(name: string, frames: number, draw: Draw): Scene {
  let n = 0;
  return {
    name,
    kind: kindOf(name),
    width: WIDTH,
    height: HEIGHT,
    rewind: () => void (n = 0),
    next(picture) {
      if (n >= frames) return undefined;
      const rects = draw(picture, n++);
      return { rects: n === 1 ? [[0, 0, WIDTH, HEIGHT]] : rects };
    },
  };
}
const at = (n: number): [number, number] => [
  600 + Math.round(300 * Math.sin(n / 10)),
  250 + Math.round(150 * Math.cos(n / 12)),
];
const random = (n: number) => Math.imul(n + 1, 2_654_435_761) >>> 0;

function glyph(p: Uint32Array, x: number, y: number, seed: number): void {
  for (let row = 0; row < 16; row++)
    for (let column = 0; column < 9; column++) {
      const ink = random(Math.floor(seed * 97 + row / 3) * 31 + Math.floor(column / 2)) % 3;
      p[(y + row) * WIDTH + x + column] = ink === 0 ? 0x20303a : ink === 1 && column % 2 ? 0x8a98a0 : 0xfdfbf4;
    }
}
function page(p: Uint32Array, top: number): [number, number, number, number][] {
  p.fill(0xfdfbf4);
  for (let line = 0; line < 60; line++) {
    const y = line * 20 - (top % 20);
    if (y < 0 || y > HEIGHT - 16) continue;
    const text = line + Math.floor(top / 20);
    for (let n = 0; n < 60 + (random(text) % 130); n++)
      if (random(text * 131 + n) % 6) glyph(p, 40 + n * 9, y, random(text * 131 + n) % 60);
  }
  return [[0, 0, WIDTH, HEIGHT]];
}
const clean = new Uint32Array(WIDTH * HEIGHT);
function background(p: Uint32Array, x: number, y: number, w: number, h: number): void {
  if (!clean[0]) page(clean, 0);
  for (let row = y; row < y + h; row++) p.set(clean.subarray(row * WIDTH + x, row * WIDTH + x + w), row * WIDTH + x);
}
function windowAt(p: Uint32Array, x: number, y: number): void {
  for (let row = 0; row < 500; row++)
    p.fill(row < 30 ? 0x2f5d62 : 0xf4efe2, (y + row) * WIDTH + x, (y + row) * WIDTH + x + 700);
  for (let line = 0; line < 20; line++)
    for (let n = 0; n < 65; n++)
      if (random(line * 99 + n) % 5) glyph(p, x + 20 + n * 10, y + 50 + line * 22, random(line * 99 + n) % 60);
}
