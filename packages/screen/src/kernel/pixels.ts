/*
 * Comparing, copying and moving pixels. Compiled twice: to WebAssembly, and as plain TypeScript, which is reference and
 * fallback; hence only integers and `memory.ts`. A picture is rows of 32-bit words without gaps.
 */
import { copyBytes, copyMasked, load32, load8, sameFrom, sameRun, store32, store8 } from './memory.ts';

export const TILE: i32 = 64;
/** What is known of a tile at the source. */
export const CLEAN: i32 = 0;
export const SUSPECT: i32 = 1;
export const CHANGED: i32 = 2;

/** Takes a rectangle of fresh pixels, `stride` words a row, into a picture. */
export function putRect(picture: i32, width: i32, fresh: i32, stride: i32, x: i32, y: i32, w: i32, h: i32): void {
  for (let row: i32 = 0; row < h; row++)
    copyMasked(picture + (((y + row) * width + x) << 2), fresh + ((row * stride) << 2), w);
}

export function fillRect(picture: i32, width: i32, x: i32, y: i32, w: i32, h: i32, colour: i32): void {
  for (let row: i32 = 0; row < h; row++) {
    const at = picture + (((y + row) * width + x) << 2);
    for (let i: i32 = 0; i < w; i++) store32(at + (i << 2), colour);
  }
}

/** Weighs the colours as ITU-R BT.601 does. */
export function greyRect(picture: i32, width: i32, x: i32, y: i32, w: i32, h: i32): void {
  for (let row: i32 = 0; row < h; row++) {
    const at = picture + (((y + row) * width + x) << 2);
    for (let i: i32 = 0; i < w; i++) {
      const p = load32(at + (i << 2));
      const g = (((p >> 16) & 255) * 77 + ((p >> 8) & 255) * 150 + (p & 255) * 29) >> 8;
      store32(at + (i << 2), (g << 16) | (g << 8) | g);
    }
  }
}

const inByte = (value: i32): i32 => (value < 0 ? 0 : value > 255 ? 255 : value);

/**
 * Turns a rectangle of Y, U and V planes (I420: U and V at half the resolution) into words. Formula: ITU-T H.273, with
 * the coefficients times 65536: `yScale`, `rv`, `gu`, `gv`, `bu`.
 */
export function planesRect(
  luma: i32,
  stride: i32,
  blue: i32,
  red: i32,
  chromaStride: i32,
  to: i32,
  x: i32,
  y: i32,
  w: i32,
  h: i32,
  yLow: i32,
  yScale: i32,
  rv: i32,
  gu: i32,
  gv: i32,
  bu: i32,
): void {
  for (let j: i32 = 0; j < h; j++) {
    const row = luma + (y + j) * stride + x;
    const chroma = ((y + j) >> 1) * chromaStride;
    for (let i: i32 = 0; i < w; i++) {
      const l = (load8(row + i) - yLow) * yScale + 32768;
      const at = chroma + ((x + i) >> 1);
      const u = load8(blue + at) - 128;
      const v = load8(red + at) - 128;
      const r = inByte((l + rv * v) >> 16);
      const g = inByte((l - gu * u - gv * v) >> 16);
      const b = inByte((l + bu * u) >> 16);
      store32(to + ((j * w + i) << 2), (r << 16) | (g << 8) | b);
    }
  }
}

/** Averages squares of `factor` pixels into a smaller picture. */
export function shrink(picture: i32, width: i32, height: i32, small: i32, factor: i32): void {
  const w = (width / factor) | 0;
  const h = (height / factor) | 0;
  const area = factor * factor;
  for (let y: i32 = 0; y < h; y++)
    for (let x: i32 = 0; x < w; x++) {
      let r: i32 = 0;
      let g: i32 = 0;
      let b: i32 = 0;
      for (let j: i32 = 0; j < factor; j++) {
        const at = picture + (((y * factor + j) * width + x * factor) << 2);
        for (let i: i32 = 0; i < factor; i++) {
          const p = load32(at + (i << 2));
          r += (p >> 16) & 255;
          g += (p >> 8) & 255;
          b += p & 255;
        }
      }
      store32(small + ((y * w + x) << 2), (((r / area) | 0) << 16) | (((g / area) | 0) << 8) | ((b / area) | 0));
    }
}

/** Copies a rectangle of one picture to the same place of another of the same size. */
export function copyRect(to: i32, from: i32, width: i32, x: i32, y: i32, w: i32, h: i32): void {
  for (let row: i32 = 0; row < h; row++) {
    const at = ((y + row) * width + x) << 2;
    copyBytes(to + at, from + at, w << 2);
  }
}

/** Moves what is `dx`, `dy` before a rectangle into it. */
export function moveRect(picture: i32, width: i32, x: i32, y: i32, w: i32, h: i32, dx: i32, dy: i32): void {
  for (let i: i32 = 0; i < h; i++) {
    const row = dy > 0 ? h - 1 - i : i;
    const to = ((y + row) * width + x) << 2;
    copyBytes(picture + to, picture + to - ((dy * width + dx) << 2), w << 2);
  }
}

/** The smallest box that holds every difference of a tile of which `top` is the first row that differs: x, y, width - 1,
 * height - 1 in six bits each. */
function boxBelow(a: i32, b: i32, width: i32, x: i32, y: i32, w: i32, h: i32, top: i32): i32 {
  const start = (y * width + x) << 2;
  const stride = width << 2;
  let bottom = h - 1;
  while (bottom > top && sameRun(a + start + bottom * stride, b + start + bottom * stride, w)) bottom--;
  let left = w;
  let right: i32 = -1;
  for (let row = top; row <= bottom; row++) {
    const at = start + row * stride;
    if (left > 0) {
      const same = sameFrom(a + at, b + at, left);
      if (same < left) left = same;
    }
    let from = w - 1;
    while (from > right && load32(a + at + (from << 2)) === load32(b + at + (from << 2))) from--;
    if (from > right) right = from;
  }
  return left | (top << 6) | ((right - left) << 12) | ((bottom - top) << 18);
}

/** A suspect tile of which a difference is known, for as long as its row of tiles is looked at. */
const DIFFERS: i32 = 255;

/**
 * Looks at every suspect tile; writes what it finds into `states` (one byte) and `boxes` (one word, -1 for a tile that is
 * clean). Answers how many changed. Rows of pixels are compared across all tiles, in the order in which they lie in memory:
 * tile by tile, each row would be another page.
 */
export function diffTiles(a: i32, b: i32, width: i32, height: i32, states: i32, boxes: i32): i32 {
  const columns = (width + TILE - 1) >> 6;
  const rows = (height + TILE - 1) >> 6;
  let changed: i32 = 0;
  for (let r: i32 = 0; r < rows; r++) {
    const y = r << 6;
    const h = height - y < TILE ? height - y : TILE;
    const first = r * columns;
    let suspects: i32 = 0;
    for (let c: i32 = 0; c < columns; c++) if (load8(states + first + c) === SUSPECT) suspects++;
    for (let row: i32 = 0; row < h && suspects > 0; row++)
      for (let c: i32 = 0; c < columns; c++) {
        if (load8(states + first + c) !== SUSPECT) continue;
        const at = ((y + row) * width + (c << 6)) << 2;
        const w = width - (c << 6) < TILE ? width - (c << 6) : TILE;
        if (sameRun(a + at, b + at, w)) continue;
        store8(states + first + c, DIFFERS);
        store32(boxes + ((first + c) << 2), row);
        suspects--;
      }
    for (let c: i32 = 0; c < columns; c++) {
      const tile = first + c;
      const state = load8(states + tile);
      if (state === SUSPECT) {
        store32(boxes + (tile << 2), -1);
        store8(states + tile, CLEAN);
      } else if (state === DIFFERS) {
        const x = c << 6;
        const w = width - x < TILE ? width - x : TILE;
        store32(boxes + (tile << 2), boxBelow(a, b, width, x, y, w, h, load32(boxes + (tile << 2))));
        store8(states + tile, CHANGED);
        changed++;
      } else if (state === CHANGED) changed++;
    }
  }
  return changed;
}
