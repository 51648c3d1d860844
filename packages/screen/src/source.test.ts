import { deflateRawSync } from 'node:zlib';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import {
  clip,
  decodeClear,
  decodeCursorShape,
  decodePoint,
  decodeVersionTable,
  decodeWanted,
  encodeCursorShape,
  encodePoint,
  encodeWanted,
  gridFor,
  MAX_SIDE_PX,
  PictureError,
  tileAt,
  tileRect,
  TileSource,
  type SourceUnit,
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

const newSource = (width: number, height: number) => new TileSource(width, height, { deflate, now: () => 0 });
const tilesOf = (unit: SourceUnit | undefined) => {
  const clear = unit && decodeClear(unit.kind === 'whole' ? 'whole' : 'change', unit.clear, unit.number);
  return (clear?.kind === 'whole' ? clear.tiles : (clear?.boxes ?? [])).map(({ tile }) => tile);
};

it('sends what changed and nothing else, as the smallest box: the same pixels again are no news', () => {
  const source = newSource(200, 200);
  const whole = { x: 0, y: 0, width: 200, height: 200 };
  const pixels = new Uint32Array(200 * 200).fill(5);
  source.put(whole, pixels);
  while (source.next(50_000));
  source.put(whole, pixels);
  expect(source.next(50_000)).toBeUndefined();
  pixels[70 * 200 + 130] = 6;
  source.put(whole, pixels);
  const unit = source.next(50_000);
  expect([unit?.kind, tilesOf(unit)]).toEqual(['change', [tileAt(source.grid, 130, 70)]]);
  expect(unit?.body.length, 'one pixel costs a few bytes').toBeLessThan(16);
});

it('sends what is near the pointer first, and no more at once than was asked for', () => {
  const source = newSource(64 * 8, 64 * 8);
  source.put(
    { x: 0, y: 0, width: 512, height: 512 },
    Uint32Array.from({ length: 512 * 512 }, (_, i) => Math.imul(i, 2_654_435_761) >>> 8),
  );
  const unit = source.next(30_000, { x: 500, y: 500 });
  const tiles = tilesOf(unit);
  expect(tiles).toContain(63);
  expect(tiles.length).toBeLessThanOrEqual(32);
});

it('says that there is nothing to send only when everything was sent, whatever is wanted meanwhile', () => {
  const step = fc.record({
    put: fc.boolean(),
    wanted: fc.array(fc.nat(20), { maxLength: 20 }),
    units: fc.nat(4),
    bytes: fc.integer({ min: 500, max: 8_000 }),
  });
  fc.assert(
    fc.property(fc.array(step, { minLength: 1, maxLength: 8 }), fc.nat(), (steps, salt) => {
      const source = newSource(64 * 5, 64 * 4);
      const whole = { x: 0, y: 0, width: 320, height: 256 };
      const noise = (n: number) =>
        Uint32Array.from({ length: 320 * 256 }, (_, i) => Math.imul(i + n * salt + 1, 2_654_435_761) >>> 8);
      source.put(whole, noise(0));
      for (const [i, { put, wanted, units, bytes }] of steps.entries()) {
        if (put) source.put(whole, noise(i));
        // The relay asks for what nobody has, too: it knows only that somebody misses it.
        source.want(wanted);
        for (let unit = 0; unit < units; unit++) source.next(bytes);
      }
      while (source.next(20_000));
      expect([...source.versions].filter((version) => version === 0)).toEqual([]);
      expect(source.hasNews).toBe(false);
    }),
    runs(),
  );
});

it('scrolls with a move and a strip, and drags with a move, for a fraction of the bytes', () => {
  const text = Uint32Array.from({ length: 640 * 900 }, (_, i) =>
    Math.imul(i, 2_654_435_761) >>> 24 < 60 ? 0x202020 : 0xffffff,
  );
  const bytesOf = (source: TileSource) => {
    let bytes = 0;
    for (let unit = source.next(500_000); unit; unit = source.next(500_000))
      bytes += unit.body.length + unit.clear.length;
    return bytes;
  };
  const source = newSource(640, 640);
  const whole = { x: 0, y: 0, width: 640, height: 640 };
  source.put(whole, text.subarray(0, 640 * 640));
  const first = bytesOf(source);
  source.put(whole, text.subarray(640 * 11, 640 * 651));
  expect(bytesOf(source)).toBeLessThan(first / 15);
  const window = new Uint32Array(300 * 300);
  for (let row = 0; row < 300; row++)
    window.set(text.subarray(640 * (row + 100) + 7, 640 * (row + 100) + 307), row * 300);
  source.put({ x: 33, y: 21, width: 300, height: 300 }, window);
  bytesOf(source);
  source.put({ x: 47, y: 30, width: 300, height: 300 }, window);
  expect(bytesOf(source)).toBeLessThan(first / 4);
});

it('reads back cursors, points, acknowledgements and wishes, and nothing that is cut', () => {
  const shape = { width: 2, height: 1, hotX: 1, hotY: 0, rgba: new Uint8ClampedArray([1, 2, 3, 4, 5, 6, 7, 8]) };
  expect(decodeCursorShape(encodeCursorShape(shape))).toEqual(shape);
  expect(decodePoint(encodePoint(1919, 1079))).toEqual({ x: 1919, y: 1079 });
  expect(decodeWanted(encodeWanted([1, 300, 65_535]))).toEqual([1, 300, 65_535]);
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 40 }), (bytes) => {
      for (const read of [decodeCursorShape, decodePoint, decodeVersionTable])
        try {
          read(bytes);
        } catch (error) {
          expect(error).toBeInstanceOf(PictureError);
        }
    }),
    runs(),
  );
});
