import { deflateRawSync } from 'node:zlib';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import {
  clip,
  decodeAck,
  decodeClearPart,
  decodeCursorShape,
  decodePoint,
  decodeWanted,
  encodeAck,
  encodeCursorShape,
  encodePoint,
  encodeWanted,
  gridFor,
  MAX_SIDE_PX,
  MAX_TILES_PER_UPDATE,
  PictureError,
  tileAt,
  tileRect,
  TileSource,
} from './index.ts';

const deflate = (bytes: Uint8Array) => deflateRawSync(bytes, { level: 1 });
const side = fc.integer({ min: 1, max: 400 });

it('covers every pixel of any display with exactly one tile', () => {
  fc.assert(
    fc.property(side, side, (width, height) => {
      const grid = gridFor(width, height);
      let area = 0;
      for (let tile = 0; tile < grid.tileCount; tile++) {
        const r = tileRect(grid, tile);
        area += r.width * r.height;
        expect([tileAt(grid, r.x, r.y), tileAt(grid, r.x + r.width - 1, r.y + r.height - 1)]).toEqual([tile, tile]);
      }
      expect(area).toBe(width * height);
    }),
    runs(),
  );
  for (const [w, h] of [
    [0, 1],
    [MAX_SIDE_PX + 1, 1],
    [MAX_SIDE_PX, MAX_SIDE_PX],
  ] as const)
    expect(() => gridFor(w, h)).toThrow(RangeError);
  expect(clip({ x: -5, y: -5, width: 5, height: 50 }, gridFor(10, 10))).toBeUndefined();
});

it('sends what changed and nothing else: the same pixels again are no news', () => {
  const source = new TileSource(200, 200, deflate);
  const whole = { x: 0, y: 0, width: 200, height: 200 };
  const pixels = new Uint32Array(200 * 200).fill(5);
  source.put(whole, pixels);
  source.markKnown();
  while (source.nextUpdate());
  source.put(whole, pixels);
  expect(source.nextUpdate()).toBeUndefined();
  pixels[70 * 200 + 130] = 6;
  source.put(whole, pixels);
  const update = source.nextUpdate();
  expect(update && decodeClearPart(update.payload).tiles).toEqual([
    { tile: tileAt(source.grid, 130, 70), version: update?.number },
  ]);
});

it('sends what is near the pointer first, and at most so many tiles at once', () => {
  const source = new TileSource(64 * 8, 64 * 8, deflate);
  source.markAllWanted();
  const first = source.nextUpdate({ x: 500, y: 500 });
  const tiles = first ? decodeClearPart(first.payload).tiles.map((t) => t.tile) : [];
  expect([tiles.length, tiles[0]]).toEqual([MAX_TILES_PER_UPDATE, 63]);
  expect(source.changedTiles).toBe(64 - MAX_TILES_PER_UPDATE);
});

it('reads back cursors, points, acknowledgements and wishes, and nothing that is cut', () => {
  const shape = { width: 2, height: 1, hotX: 1, hotY: 0, rgba: new Uint8ClampedArray([1, 2, 3, 4, 5, 6, 7, 8]) };
  expect(decodeCursorShape(encodeCursorShape(shape))).toEqual(shape);
  expect(decodePoint(encodePoint(1919, 1079))).toEqual({ x: 1919, y: 1079 });
  expect(decodeAck(encodeAck(400_000))).toBe(400_000);
  expect(decodeWanted(encodeWanted([1, 300, 65_535]))).toEqual([1, 300, 65_535]);
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 40 }), (bytes) => {
      for (const read of [decodeCursorShape, decodePoint, decodeAck])
        try {
          read(bytes);
        } catch (error) {
          expect(error).toBeInstanceOf(PictureError);
        }
    }),
    runs(),
  );
});
