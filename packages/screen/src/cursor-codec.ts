import { PictureError } from './picture-error.ts';

/*
 * The cursor is a small picture of its own, drawn by the viewer and never part of a tile.
 *   shape:    | width u16 | height u16 | hot x u16 | hot y u16 | R G B A, row by row |
 *   position: | x u16 | y u16 |
 */
export const MAX_CURSOR_SIDE_PX = 256;

export interface CursorShape {
  readonly width: number;
  readonly height: number;
  readonly hotX: number;
  readonly hotY: number;
  readonly rgba: Uint8ClampedArray<ArrayBuffer>;
}

export function encodeCursorShape({ width, height, hotX, hotY, rgba }: CursorShape): Uint8Array {
  const out = new Uint8Array(8 + rgba.length);
  const view = new DataView(out.buffer);
  [width, height, hotX, hotY].forEach((n, i) => view.setUint16(i * 2, n));
  out.set(rgba, 8);
  return out;
}

export function decodeCursorShape(payload: Uint8Array): CursorShape {
  if (payload.byteLength < 8) throw new PictureError('a cursor is cut short');
  const view = new DataView(payload.buffer, payload.byteOffset, payload.byteLength);
  const [width, height, hotX, hotY] = [0, 2, 4, 6].map((at) => view.getUint16(at)) as [number, number, number, number];
  const isGood = width > 0 && height > 0 && width <= MAX_CURSOR_SIDE_PX && height <= MAX_CURSOR_SIDE_PX;
  if (!isGood || payload.byteLength !== 8 + width * height * 4)
    throw new PictureError('a cursor has an impossible size');
  return { width, height, hotX, hotY, rgba: new Uint8ClampedArray(payload.slice(8).buffer) };
}

export function encodePoint(x: number, y: number): Uint8Array {
  const out = new Uint8Array(4);
  new DataView(out.buffer).setUint16(0, x);
  new DataView(out.buffer).setUint16(2, y);
  return out;
}

export function decodePoint(payload: Uint8Array): { x: number; y: number } {
  if (payload.byteLength !== 4) throw new PictureError('a position is cut short');
  const view = new DataView(payload.buffer, payload.byteOffset, 4);
  return { x: view.getUint16(0), y: view.getUint16(2) };
}

/** Tile numbers the relay wants again; an empty list means every tile. */
export function encodeWanted(tiles: readonly number[]): Uint8Array {
  return new Uint8Array(Uint16Array.from(tiles).buffer);
}

export function decodeWanted(payload: Uint8Array): number[] {
  return [...new Uint16Array(payload.slice(0, payload.byteLength & ~1).buffer)];
}
