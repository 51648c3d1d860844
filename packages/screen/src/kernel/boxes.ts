/*
 * The encodings of one box of pixels; the byte layout is in docs/protocol.md. The encoder reads words 0x00RRGGBB, the
 * decoder writes R G B A bytes. A palette lives for one unit and grows: at `palette` a count, 256 colours, and a table
 * of 1,024 places for finding them.
 */
import { fillBytes, load32, load8, mul32, sameFrom, sameRun, store32, store8 } from './memory.ts';

export const FILL: i32 = 1;
export const PALETTE: i32 = 2;
export const TRUE_COLOUR: i32 = 3;
const MAX_COLOURS: i32 = 256;
const TABLE_MASK: i32 = 1023;
const COLOURS: i32 = 4;
const TABLE: i32 = 4 + 1024;
export const PALETTE_BYTES: i32 = 4 + 1024 + 4096;
/** A palette token: the upper two bits say which, the lower six how many, less one. */
const LITERALS: i32 = 0;
const AS_LEFT: i32 = 64;
const AS_ABOVE: i32 = 128;
const ROWS_AS_ABOVE: i32 = 192;
const BY_LEFT: i32 = 0;
const BY_ABOVE: i32 = 1;
const BY_GRADIENT: i32 = 2;

export function clearPalette(palette: i32): void {
  store32(palette, 0);
  fillBytes(palette + TABLE, 0, 4096);
}

/** The index of a colour, put in when it is new; -1 when there is no room. */
function indexOf(palette: i32, colour: i32): i32 {
  let place = (mul32(colour, 0x2c1b3c6d) >>> 16) & TABLE_MASK;
  for (;;) {
    const entry = load32(palette + TABLE + (place << 2));
    if (entry === 0) break;
    if (load32(palette + COLOURS + ((entry - 1) << 2)) === colour) return entry - 1;
    place = (place + 1) & TABLE_MASK;
  }
  const count = load32(palette);
  if (count === MAX_COLOURS) return -1;
  store32(palette + COLOURS + (count << 2), colour);
  store32(palette + TABLE + (place << 2), count + 1);
  store32(palette, count + 1);
  return count;
}

/** False when the colours of the box do not all fit. */
function takeColours(palette: i32, pixels: i32, width: i32, w: i32, h: i32): bool {
  let last: i32 = -1;
  for (let row: i32 = 0; row < h; row++) {
    const at = pixels + ((row * width) << 2);
    for (let i: i32 = 0; i < w; i++) {
      const p = load32(at + (i << 2));
      if (p === last) continue;
      if (indexOf(palette, p) < 0) return false;
      last = p;
    }
  }
  return true;
}

/** `pixels` is where the box begins in its picture. Answers where the encoded bytes end. */
export function encodeBox(pixels: i32, width: i32, w: i32, h: i32, out: i32, palette: i32): i32 {
  const first = load32(pixels);
  let isFill = true;
  for (let i: i32 = 1; i < w; i++)
    if (load32(pixels + (i << 2)) !== first) {
      isFill = false;
      break;
    }
  for (let row: i32 = 1; row < h && isFill; row++) isFill = sameRun(pixels, pixels + ((row * width) << 2), w);
  if (isFill) {
    store8(out, FILL);
    store8(out + 1, (first >> 16) & 255);
    store8(out + 2, (first >> 8) & 255);
    store8(out + 3, first & 255);
    return out + 4;
  }
  const known = load32(palette);
  if (takeColours(palette, pixels, width, w, h)) return encodePalette(pixels, width, w, h, out, palette, known);
  if (known > 0) {
    // Perhaps alone: a box beside a photo should not lose its own few colours to it.
    clearPalette(palette);
    if (takeColours(palette, pixels, width, w, h)) return encodePalette(pixels, width, w, h, out, palette, -1);
  }
  clearPalette(palette);
  return encodeTrueColour(pixels, width, w, h, out);
}

/** `known` colours were in the palette before; -1 says that the palette begins anew. */
function encodePalette(pixels: i32, width: i32, w: i32, h: i32, out: i32, palette: i32, known: i32): i32 {
  const count = load32(palette);
  const from = known < 0 ? 0 : known;
  store8(out, PALETTE);
  // After a true-colour box the palette is empty on both sides, so "anew" and "none known" are the same.
  store8(out + 1, known < 0 ? 1 : 0);
  store8(out + 2, (count - from) >> 8);
  store8(out + 3, (count - from) & 255);
  out += 4;
  for (let i = from; i < count; i++) {
    const colour = load32(palette + COLOURS + (i << 2));
    store8(out, (colour >> 16) & 255);
    store8(out + 1, (colour >> 8) & 255);
    store8(out + 2, colour & 255);
    out += 3;
  }
  const stride = width << 2;
  for (let row: i32 = 0; row < h; row++) {
    const at = pixels + row * stride;
    if (row > 0 && sameRun(at, at - stride, w)) {
      let rows: i32 = 1;
      while (rows < 64 && row + rows < h && sameRun(at + rows * stride, at + (rows - 1) * stride, w)) rows++;
      store8(out++, ROWS_AS_ABOVE + rows - 1);
      row += rows - 1;
      continue;
    }
    let literals: i32 = 0;
    for (let i: i32 = 0; i < w;) {
      const here = at + (i << 2);
      const p = load32(here);
      let above: i32 = 0;
      if (row > 0 && load32(here - stride) === p) above = sameFrom(here, here - stride, w - i);
      let left: i32 = 0;
      if (i > 0 && load32(here - 4) === p) {
        left = 1;
        while (i + left < w && load32(here + (left << 2)) === p) left++;
      }
      const run = above > left ? above : left;
      // Two pixels inside literals are cheaper as literals.
      if (run > 2 || (run > 0 && literals === 0)) {
        const length = run > 64 ? 64 : run;
        store8(out++, (above >= left ? AS_ABOVE : AS_LEFT) + length - 1);
        literals = 0;
        i += length;
      } else {
        if (literals === 0 || literals === 64) {
          literals = 0;
          out++;
        }
        literals++;
        store8(out - literals, LITERALS + literals - 1);
        store8(out++, indexOf(palette, p));
        i++;
      }
    }
  }
  return out;
}

function predicted(left: i32, above: i32, corner: i32, by: i32): i32 {
  if (by === BY_LEFT) return left;
  if (by === BY_ABOVE) return above;
  // The median of left, above and their plane: the predictor of ITU-T T.87.
  const least = left < above ? left : above;
  const most = left < above ? above : left;
  if (corner >= most) return least;
  if (corner <= least) return most;
  return left + above - corner;
}

function encodeTrueColour(pixels: i32, width: i32, w: i32, h: i32, out: i32): i32 {
  const stride = width << 2;
  let best: i32 = BY_LEFT;
  let bestCost: i32 = 0x7fffffff;
  for (let by: i32 = 0; by < 3; by++) {
    let cost: i32 = 0;
    for (let row: i32 = 1; row < h; row += 4)
      for (let i: i32 = 1; i < w; i += 2) {
        const at = pixels + row * stride + (i << 2);
        const d =
          (((load32(at) >> 8) & 255) -
            predicted(
              (load32(at - 4) >> 8) & 255,
              (load32(at - stride) >> 8) & 255,
              (load32(at - stride - 4) >> 8) & 255,
              by,
            )) &
          255;
        cost += d > 127 ? 256 - d : d;
      }
    if (cost < bestCost) {
      bestCost = cost;
      best = by;
    }
  }
  store8(out, TRUE_COLOUR);
  store8(out + 1, best);
  out += 2;
  const size = w * h;
  let to = out;
  for (let row: i32 = 0; row < h; row++) {
    // Outside of the box everything counts as nought, so that a box needs no other box.
    let left: i32 = 0;
    let corner: i32 = 0;
    for (let i: i32 = 0; i < w; i++) {
      const at = pixels + row * stride + (i << 2);
      const here = greenFree(load32(at));
      const above = row > 0 ? greenFree(load32(at - stride)) : 0;
      store8(to, (here >> 8) - predicted((left >> 8) & 255, (above >> 8) & 255, (corner >> 8) & 255, best));
      store8(to + size, (here >> 16) - predicted((left >> 16) & 255, (above >> 16) & 255, (corner >> 16) & 255, best));
      store8(to + 2 * size, here - predicted(left & 255, above & 255, corner & 255, best));
      to++;
      left = here;
      corner = above;
    }
  }
  return out + 3 * size;
}

/** Red and blue less green: what is grey becomes nought. Each channel is moved to the middle, so that it seldom wraps. */
function greenFree(p: i32): i32 {
  const g = (p >> 8) & 255;
  return ((((p >> 16) - g + 128) & 255) << 16) | (g << 8) | (((p & 255) - g + 128) & 255);
}

/**
 * Reads one box into a picture of R G B A. `pixels` is where the box begins, `end` where the bytes end. Answers where
 * the box's bytes end, or -1 for bytes that are no box.
 */
export function decodeBox(at: i32, end: i32, pixels: i32, width: i32, w: i32, h: i32, palette: i32): i32 {
  if (at + 4 > end) return -1;
  const kind = load8(at);
  if (kind === FILL) {
    const colour = wordOf(load8(at + 1), load8(at + 2), load8(at + 3));
    for (let row: i32 = 0; row < h; row++) {
      const to = pixels + ((row * width) << 2);
      for (let i: i32 = 0; i < w; i++) store32(to + (i << 2), colour);
    }
    return at + 4;
  }
  if (kind === PALETTE) return decodePalette(at + 1, end, pixels, width, w, h, palette);
  if (kind === TRUE_COLOUR) {
    store32(palette, 0);
    return decodeTrueColour(at + 1, end, pixels, width, w, h);
  }
  return -1;
}

function wordOf(r: i32, g: i32, b: i32): i32 {
  return (0xff << 24) | (b << 16) | (g << 8) | r;
}

function decodePalette(at: i32, end: i32, pixels: i32, width: i32, w: i32, h: i32, palette: i32): i32 {
  if (load8(at) !== 0) store32(palette, 0);
  const more = (load8(at + 1) << 8) | load8(at + 2);
  at += 3;
  let count = load32(palette);
  if (count + more > MAX_COLOURS || at + more * 3 > end) return -1;
  for (let i: i32 = 0; i < more; i++, at += 3)
    store32(palette + COLOURS + (count++ << 2), wordOf(load8(at), load8(at + 1), load8(at + 2)));
  store32(palette, count);
  const stride = width << 2;
  let row: i32 = 0;
  let i: i32 = 0;
  let here = pixels;
  while (row < h) {
    if (at >= end) return -1;
    const token = load8(at++);
    const length = (token & 63) + 1;
    const kind = token & 192;
    if (kind === ROWS_AS_ABOVE) {
      if (i !== 0 || row === 0 || row + length > h) return -1;
      for (let n: i32 = 0; n < length; n++, here += stride)
        for (let j: i32 = 0; j < w; j++) store32(here + (j << 2), load32(here + (j << 2) - stride));
      row += length;
      continue;
    }
    if (i + length > w) return -1;
    if (kind === LITERALS) {
      if (at + length > end) return -1;
      for (let n: i32 = 0; n < length; n++) {
        const index = load8(at++);
        if (index >= count) return -1;
        store32(here + ((i + n) << 2), load32(palette + COLOURS + (index << 2)));
      }
    } else if (kind === AS_LEFT) {
      if (i === 0) return -1;
      const p = load32(here + ((i - 1) << 2));
      for (let n: i32 = 0; n < length; n++) store32(here + ((i + n) << 2), p);
    } else {
      if (row === 0) return -1;
      for (let n: i32 = 0; n < length; n++) store32(here + ((i + n) << 2), load32(here + ((i + n) << 2) - stride));
    }
    i += length;
    if (i === w) {
      i = 0;
      row++;
      here += stride;
    }
  }
  return at;
}

function decodeTrueColour(at: i32, end: i32, pixels: i32, width: i32, w: i32, h: i32): i32 {
  const by = load8(at++);
  const size = w * h;
  if (by > BY_GRADIENT || at + 3 * size > end) return -1;
  const stride = width << 2;
  for (let row: i32 = 0; row < h; row++) {
    let left: i32 = 0;
    let corner: i32 = 0;
    for (let i: i32 = 0; i < w; i++, at++) {
      const to = pixels + row * stride + (i << 2);
      const above = row > 0 ? greenFreeOf(load32(to - stride)) : 0;
      const g = (load8(at) + predicted((left >> 8) & 255, (above >> 8) & 255, (corner >> 8) & 255, by)) & 255;
      const r = (load8(at + size) + predicted((left >> 16) & 255, (above >> 16) & 255, (corner >> 16) & 255, by)) & 255;
      const b = (load8(at + 2 * size) + predicted(left & 255, above & 255, corner & 255, by)) & 255;
      store32(to, wordOf((r + g - 128) & 255, g, (b + g - 128) & 255));
      left = (r << 16) | (g << 8) | b;
      corner = above;
    }
  }
  return at + 2 * size;
}

/** `greenFree` of a pixel in R G B A. */
function greenFreeOf(p: i32): i32 {
  const g = (p >> 8) & 255;
  return ((((p & 255) - g + 128) & 255) << 16) | (g << 8) | ((((p >> 16) & 255) - g + 128) & 255);
}
