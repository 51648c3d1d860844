import type { XConnection } from './connection.ts';

/** A request is at most 256 KB: a picture goes in strips. */
const STRIP_BYTES = 200_000;

export interface Painting {
  readonly width: number;
  readonly height: number;
  readonly bgrx: Buffer;
}

/** Puts a picture into a window of ours, at its upper left corner or where it is said. */
export function paint(
  { client }: XConnection,
  window: number,
  gc: number,
  { width, height, bgrx }: Painting,
  at = { x: 0, y: 0 },
): void {
  const rows = Math.max(1, Math.floor(STRIP_BYTES / (width * 4)));
  for (let y = 0; y < height; y += rows) {
    const count = Math.min(rows, height - y);
    const strip = bgrx.subarray(y * width * 4, (y + count) * width * 4);
    client.PutImage(2, window, gc, width, count, at.x, at.y + y, 0, 24, strip);
  }
}
