import { isGoodSize, gridFor, tileRect, type Grid } from './grid.ts';

/*
 * The payload of a screen update. What is in the clear lets the relay keep the newest of each tile; the rest is for
 * viewers only. Big-endian.
 *
 *   | width u16 | height u16 | count u16 | count × ( tile u16, version u32 ) |      clear
 *   | count × kind u8 | fills: 3 bytes each | raw deflate of the lossless ones |   opaque to the relay
 *
 * Kind 1, fill: one colour, R G B. Kind 2, lossless: three planes R, G, B, each byte the difference to its left
 * neighbour in the plane's row (the first of a row to 0), tiles one after another in one deflate stream.
 */
export const MAX_TILES_PER_UPDATE = 16;
export const encodings = { fill: 1, lossless: 2 } as const;

export interface TileVersion {
  readonly tile: number;
  readonly version: number;
}
export interface ClearPart {
  readonly width: number;
  readonly height: number;
  readonly tiles: readonly TileVersion[];
  /** Where the opaque part begins. */
  readonly opaqueOffset: number;
}

/** Thrown for bytes that are no update; never anything worse, whatever the bytes. */
export class PictureError extends Error {
  override readonly name = 'PictureError';
}

/** Raw deflate and its inverse, handed in: Node and browsers have different ones. */
export type Deflate = (bytes: Uint8Array) => Uint8Array;
export type Inflate = (bytes: Uint8Array, sizeBytes: number) => Uint8Array;

const CLEAR_BYTES = 6;
const TILE_ENTRY_BYTES = 6;

export function decodeClearPart(payload: Uint8Array): ClearPart {
  if (payload.byteLength < CLEAR_BYTES) throw new PictureError('an update is cut short');
  const view = new DataView(payload.buffer, payload.byteOffset, payload.byteLength);
  const width = view.getUint16(0);
  const height = view.getUint16(2);
  const count = view.getUint16(4);
  if (!isGoodSize(width, height)) throw new PictureError('an update names an impossible size');
  if (count < 1 || count > MAX_TILES_PER_UPDATE) throw new PictureError('an update holds too many tiles, or none');
  const opaqueOffset = CLEAR_BYTES + count * TILE_ENTRY_BYTES;
  if (payload.byteLength < opaqueOffset) throw new PictureError('an update is cut short');
  const { tileCount } = gridFor(width, height);
  const tiles: TileVersion[] = [];
  for (let i = 0; i < count; i++) {
    const at = CLEAR_BYTES + i * TILE_ENTRY_BYTES;
    const tile = view.getUint16(at);
    if (tile >= tileCount) throw new PictureError('an update names a tile outside the display');
    tiles.push({ tile, version: view.getUint32(at + 2) });
  }
  return { width, height, tiles, opaqueOffset };
}

/** `pixels` is the whole picture, one 32-bit word a pixel, 0xXXRRGGBB. */
export function encodeUpdate(
  pixels: Uint32Array,
  grid: Grid,
  tiles: readonly TileVersion[],
  deflate: Deflate,
): Uint8Array {
  const kinds = new Uint8Array(tiles.length);
  const fills: number[] = [];
  const planes: Uint8Array[] = [];
  tiles.forEach(({ tile }, i) => {
    const fill = singleColour(pixels, grid, tile);
    kinds[i] = fill === undefined ? encodings.lossless : encodings.fill;
    if (fill === undefined) planes.push(encodePlanes(pixels, grid, tile));
    else fills.push((fill >> 16) & 255, (fill >> 8) & 255, fill & 255);
  });
  const packed = planes.length ? deflate(concat(planes)) : new Uint8Array(0);
  const clearBytes = CLEAR_BYTES + tiles.length * TILE_ENTRY_BYTES;
  const out = new Uint8Array(clearBytes + kinds.length + fills.length + packed.length);
  const view = new DataView(out.buffer);
  view.setUint16(0, grid.width);
  view.setUint16(2, grid.height);
  view.setUint16(4, tiles.length);
  tiles.forEach(({ tile, version }, i) => {
    view.setUint16(CLEAR_BYTES + i * TILE_ENTRY_BYTES, tile);
    view.setUint32(CLEAR_BYTES + i * TILE_ENTRY_BYTES + 2, version);
  });
  out.set(kinds, clearBytes);
  out.set(fills, clearBytes + kinds.length);
  out.set(packed, clearBytes + kinds.length + fills.length);
  return out;
}

/** One tile's pixels, row by row, as R G B A bytes. */
export interface DecodedTile extends TileVersion {
  readonly rgba: Uint8ClampedArray<ArrayBuffer>;
}

/** Throws PictureError for anything that is not exactly an update. */
export function decodeTiles(payload: Uint8Array, clear: ClearPart, inflate: Inflate): DecodedTile[] {
  const grid = gridFor(clear.width, clear.height);
  const count = clear.tiles.length;
  const kinds = payload.subarray(clear.opaqueOffset, clear.opaqueOffset + count);
  if (kinds.length < count) throw new PictureError('an update is cut short');
  let fillAt = clear.opaqueOffset + count;
  let planeBytes = 0;
  let fillCount = 0;
  clear.tiles.forEach(({ tile }, i) => {
    const { width, height } = tileRect(grid, tile);
    if (kinds[i] === encodings.lossless) planeBytes += width * height * 3;
    else if (kinds[i] === encodings.fill) fillCount++;
    else throw new PictureError(`tile encoding ${kinds[i]} is unknown`);
  });
  const packedAt = fillAt + fillCount * 3;
  if (payload.length < packedAt) throw new PictureError('an update is cut short');
  const planes = planeBytes ? inflateExactly(payload.subarray(packedAt), planeBytes, inflate) : new Uint8Array(0);
  let planeAt = 0;
  return clear.tiles.map(({ tile, version }, i) => {
    const { width, height } = tileRect(grid, tile);
    const rgba = new Uint8ClampedArray(width * height * 4);
    if (kinds[i] === encodings.fill) {
      const [r = 0, g = 0, b = 0] = payload.subarray(fillAt, fillAt + 3);
      fillAt += 3;
      new Uint32Array(rgba.buffer).fill((0xff000000 | (b << 16) | (g << 8) | r) >>> 0);
    } else {
      decodePlanes(planes.subarray(planeAt, planeAt + width * height * 3), width, height, rgba);
      planeAt += width * height * 3;
    }
    return { tile, version, rgba };
  });
}

function inflateExactly(packed: Uint8Array, sizeBytes: number, inflate: Inflate): Uint8Array {
  let bytes: Uint8Array;
  try {
    bytes = inflate(packed, sizeBytes);
  } catch (cause) {
    throw new PictureError('the packed pixels are damaged', { cause });
  }
  if (bytes.length !== sizeBytes) throw new PictureError('the packed pixels have the wrong length');
  return bytes;
}

function singleColour(pixels: Uint32Array, grid: Grid, tile: number): number | undefined {
  const { x, y, width, height } = tileRect(grid, tile);
  const first = (pixels[y * grid.width + x] ?? 0) & 0xffffff;
  for (let row = y; row < y + height; row++) {
    const start = row * grid.width + x;
    for (let at = start; at < start + width; at++) if (((pixels[at] ?? 0) & 0xffffff) !== first) return undefined;
  }
  return first;
}

function encodePlanes(pixels: Uint32Array, grid: Grid, tile: number): Uint8Array {
  const { x, y, width, height } = tileRect(grid, tile);
  const size = width * height;
  const out = new Uint8Array(size * 3);
  let at = 0;
  for (let row = 0; row < height; row++) {
    let r = 0;
    let g = 0;
    let b = 0;
    const start = (y + row) * grid.width + x;
    for (let i = start; i < start + width; i++, at++) {
      const p = pixels[i] ?? 0;
      const nextR = (p >> 16) & 255;
      const nextG = (p >> 8) & 255;
      const nextB = p & 255;
      out[at] = nextR - r;
      out[size + at] = nextG - g;
      out[2 * size + at] = nextB - b;
      r = nextR;
      g = nextG;
      b = nextB;
    }
  }
  return out;
}

function decodePlanes(planes: Uint8Array, width: number, height: number, rgba: Uint8ClampedArray): void {
  const size = width * height;
  for (let plane = 0; plane < 3; plane++) {
    let at = plane * size;
    let to = plane;
    for (let row = 0; row < height; row++) {
      let value = 0;
      for (let i = 0; i < width; i++, at++, to += 4) {
        value = (value + (planes[at] ?? 0)) & 255;
        rgba[to] = value;
      }
    }
  }
  for (let to = 3; to < size * 4; to += 4) rgba[to] = 255;
}

function concat(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
