import type { Rect } from '@porch/screen';
import type { Painting } from '../server/painting.ts';
import type { View } from './view.ts';

/**
 * A part of a view as pixels for an X server. A pixel that stands for several of the picture is their mean, each weighed by
 * how much of it lies in there: thin strokes of letters grow lighter and are not lost.
 */
export function drawPart(
  rgba: Uint8ClampedArray,
  picture: { readonly width: number; readonly height: number },
  { from, scale }: View,
  part: Rect,
): Painting {
  const bgrx = Buffer.alloc(part.width * part.height * 4);
  if (scale === 1) copy(rgba, picture.width, from, part, bgrx);
  else shrink(rgba, picture, from, scale, part, bgrx);
  return { width: part.width, height: part.height, bgrx };
}

function copy(
  rgba: Uint8ClampedArray,
  stride: number,
  from: { readonly x: number; readonly y: number },
  part: Rect,
  bgrx: Buffer,
): void {
  let to = 0;
  for (let y = 0; y < part.height; y++) {
    let at = ((from.y + part.y + y) * stride + from.x + part.x) * 4;
    for (let x = 0; x < part.width; x++, at += 4, to += 4) {
      bgrx[to] = rgba[at + 2] ?? 0;
      bgrx[to + 1] = rgba[at + 1] ?? 0;
      bgrx[to + 2] = rgba[at] ?? 0;
    }
  }
}

/** Which pixels of a line one pixel stands for, and how much of each; together 1. */
interface Share {
  readonly first: number;
  readonly weights: Float64Array;
}
function shares(from: number, scale: number, at: number, count: number, size: number): Share[] {
  return Array.from({ length: count }, (_, i) => {
    const [begin, end] = [from + (at + i) / scale, Math.min(size, from + (at + i + 1) / scale)];
    const first = Math.min(size - 1, Math.floor(begin));
    const weights = new Float64Array(Math.max(1, Math.ceil(end) - first)).fill(1);
    // At the very edge nothing may be left: then the last pixel stands for it.
    if (end > begin)
      for (let n = 0; n < weights.length; n++)
        weights[n] = (Math.min(first + n + 1, end) - Math.max(first + n, begin)) / (end - begin);
    return { first, weights };
  });
}

/** First along the rows, each once, then across them: this is where the time goes when all of a picture changes. */
function shrink(
  rgba: Uint8ClampedArray,
  { width, height }: { readonly width: number; readonly height: number },
  from: { readonly x: number; readonly y: number },
  scale: number,
  part: Rect,
  bgrx: Buffer,
): void {
  const words = new Uint32Array(rgba.buffer, rgba.byteOffset, width * height);
  const columns = shares(from.x, scale, part.x, part.width, width);
  const rows = shares(from.y, scale, part.y, part.height, height);
  const line = new Float64Array(part.width * 3);
  const sums = new Float64Array(part.width * 3);
  let lineAt = -1;
  let to = 0;
  for (const { first, weights } of rows) {
    sums.fill(0.5);
    for (let n = 0; n < weights.length; n++) {
      if (lineAt !== first + n) shrinkLine(words, (lineAt = first + n) * width, columns, line);
      const weight = weights[n] ?? 0;
      for (let i = 0; i < sums.length; i++) sums[i] = (sums[i] ?? 0) + weight * (line[i] ?? 0);
    }
    for (let i = 0; i < sums.length; i += 3, to += 4) {
      bgrx[to] = sums[i + 2] ?? 0;
      bgrx[to + 1] = sums[i + 1] ?? 0;
      bgrx[to + 2] = sums[i] ?? 0;
    }
  }
}

/** Words 0xAABBGGRR of one row, as red, green and blue of fewer pixels. */
function shrinkLine(words: Uint32Array, start: number, columns: readonly Share[], line: Float64Array): void {
  let to = 0;
  for (const { first, weights } of columns) {
    let red = 0;
    let green = 0;
    let blue = 0;
    for (let n = 0; n < weights.length; n++) {
      const word = words[start + first + n] ?? 0;
      const weight = weights[n] ?? 0;
      red += weight * (word & 255);
      green += weight * ((word >> 8) & 255);
      blue += weight * ((word >> 16) & 255);
    }
    line[to++] = red;
    line[to++] = green;
    line[to++] = blue;
  }
}
