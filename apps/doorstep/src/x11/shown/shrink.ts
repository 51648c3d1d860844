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

/** Which pixels of a line one pixel stands for, and how much of each. */
interface Share {
  readonly first: number;
  readonly weights: readonly number[];
}
function shares(from: number, scale: number, at: number, count: number, size: number): Share[] {
  return Array.from({ length: count }, (_, i) => {
    const [begin, end] = [from + (at + i) / scale, Math.min(size, from + (at + i + 1) / scale)];
    const first = Math.min(size - 1, Math.floor(begin));
    const weights: number[] = [];
    for (let pixel = first; pixel < end; pixel++) weights.push(Math.min(pixel + 1, end) - Math.max(pixel, begin));
    return { first, weights: weights.length ? weights : [1] };
  });
}

function shrink(
  rgba: Uint8ClampedArray,
  { width, height }: { readonly width: number; readonly height: number },
  from: { readonly x: number; readonly y: number },
  scale: number,
  part: Rect,
  bgrx: Buffer,
): void {
  const columns = shares(from.x, scale, part.x, part.width, width);
  const rows = shares(from.y, scale, part.y, part.height, height);
  let to = 0;
  for (const row of rows)
    for (const column of columns) {
      let [red, green, blue, sum] = [0, 0, 0, 0];
      for (let y = 0; y < row.weights.length; y++) {
        const rowWeight = row.weights[y] ?? 0;
        let at = ((row.first + y) * width + column.first) * 4;
        for (let x = 0; x < column.weights.length; x++, at += 4) {
          const weight = rowWeight * (column.weights[x] ?? 0);
          red += weight * (rgba[at] ?? 0);
          green += weight * (rgba[at + 1] ?? 0);
          blue += weight * (rgba[at + 2] ?? 0);
          sum += weight;
        }
      }
      bgrx[to] = blue / sum + 0.5;
      bgrx[to + 1] = green / sum + 0.5;
      bgrx[to + 2] = red / sum + 0.5;
      to += 4;
    }
}
