import { deflateRawSync, inflateRawSync } from 'node:zlib';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import {
  decodeClear,
  inflateInPlainCode,
  PictureError,
  TileSource,
  ViewerPicture,
  type ReceivedUnit,
} from './index.ts';

const WIDTH = 300;
const HEIGHT = 200;
const deflate = (bytes: Uint8Array) => deflateRawSync(bytes, { level: 1 });

const draw = fc.record({
  x: fc.nat(WIDTH - 1),
  y: fc.nat(HEIGHT - 1),
  w: fc.integer({ min: 1, max: WIDTH }),
  h: fc.integer({ min: 1, max: HEIGHT }),
  colours: fc.constantFrom(1, 2, 17, 200, 300, 100_000),
  dy: fc.integer({ min: -40, max: 40 }),
  dx: fc.integer({ min: -40, max: 40 }),
  isShift: fc.boolean(),
  seed: fc.nat(),
});

function apply(
  source: TileSource,
  d: {
    x: number;
    y: number;
    w: number;
    h: number;
    colours: number;
    dx: number;
    dy: number;
    isShift: boolean;
    seed: number;
  },
) {
  const width = Math.min(d.w, WIDTH - d.x);
  const height = Math.min(d.h, HEIGHT - d.y);
  const from = source.pixels.slice();
  const fresh = Uint32Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [d.x + (i % width) - d.dx, d.y + Math.floor(i / width) - d.dy];
    if (d.isShift && x >= 0 && y >= 0 && x < WIDTH && y < HEIGHT) return from[y * WIDTH + x] ?? 0;
    return ((Math.imul(i + d.seed, 2_654_435_761) >>> 0) % d.colours) * 4_099;
  });
  source.put({ x: d.x, y: d.y, width, height }, fresh);
}

it('gives the same bytes and the same pixels compiled and in plain TypeScript', () => {
  fc.assert(
    fc.property(fc.array(draw, { minLength: 2, maxLength: 10, size: 'max' }), (draws) => {
      const sources = (['wasm', 'plain'] as const).map(
        (kernel) => new TileSource(WIDTH, HEIGHT, { deflate, kernel, now: () => 0 }),
      );
      const viewers = [
        new ViewerPicture((b) => inflateRawSync(b), 'plain'),
        new ViewerPicture(inflateInPlainCode, 'wasm'),
      ];
      for (const d of draws) {
        for (const source of sources) apply(source, d);
        for (;;) {
          const [compiled, plain] = sources.map((source) => source.next(20_000));
          expect(compiled).toEqual(plain);
          if (!compiled) break;
          for (const viewer of viewers) viewer.take({ ...compiled, generation: 1 });
        }
        const [a, b] = viewers as [ViewerPicture, ViewerPicture];
        expect(Buffer.compare(Buffer.from(a.rgba), Buffer.from(b.rgba))).toBe(0);
        const words = new Uint32Array(a.rgba.buffer, a.rgba.byteOffset, WIDTH * HEIGHT);
        const wrong = words.findIndex(
          (p, i) => (((p & 255) << 16) | (p & 0xff00) | ((p >> 16) & 255)) !== sources[0]?.pixels[i],
        );
        expect(wrong).toBe(-1);
      }
    }),
    runs(),
  );
});

/** Good messages of each kind, to be damaged. */
function goodUnits(): ReceivedUnit[] {
  const source = new TileSource(WIDTH, HEIGHT, { deflate, now: () => 0 });
  const units: ReceivedUnit[] = [];
  const take = () => {
    for (let unit = source.next(30_000); unit; unit = source.next(30_000)) units.push({ ...unit, generation: 1 });
  };
  const base = { x: 0, y: 0, w: WIDTH, h: HEIGHT, dx: 0, dy: 0, isShift: false, seed: 3 };
  apply(source, { ...base, colours: 17 });
  take();
  apply(source, { ...base, colours: 17, dy: -9, isShift: true });
  take();
  apply(source, { ...base, x: 70, y: 70, w: 40, h: 30, colours: 100_000 });
  take();
  return units;
}

it('answers any damaged message with an error and nothing worse', () => {
  const good = goodUnits();
  expect(new Set(good.map((u) => u.kind))).toEqual(new Set(['whole', 'change']));
  fc.assert(
    fc.property(
      fc.nat(good.length - 1),
      fc.constantFrom('clear', 'body'),
      fc.oneof(fc.constant('cut'), fc.constant('flip'), fc.constant('random'), fc.constant('swap')),
      fc.nat(),
      fc.uint8Array({ minLength: 1, maxLength: 400 }),
      (index, part, how, at, random) => {
        const viewers = [new ViewerPicture(inflateInPlainCode), new ViewerPicture((b) => inflateRawSync(b), 'plain')];
        const unit = good[index] as ReceivedUnit;
        const bytes = unit[part as 'clear' | 'body'].slice();
        const place = at % bytes.length;
        const bad =
          how === 'cut'
            ? bytes.subarray(0, place)
            : how === 'random'
              ? random
              : how === 'flip'
                ? bytes
                : bytes.reverse();
        if (how === 'flip') bytes[place] = (bytes[place] ?? 0) ^ (1 << (at % 8));
        for (const viewer of viewers) {
          for (const before of good.slice(0, index)) viewer.take(before);
          try {
            viewer.take({ ...unit, [part]: bad });
          } catch (error) {
            expect(error).toBeInstanceOf(PictureError);
          }
        }
      },
    ),
    runs(),
  );
});

it('refuses sizes that nobody has, before any memory is taken', () => {
  const hostile = new Uint8Array([255, 255, 255, 255, 1, 0, 0]);
  expect(() => decodeClear('whole', hostile, 1)).toThrow(PictureError);
  const viewer = new ViewerPicture(inflateInPlainCode);
  const clear = new Uint8Array([0, 64, 0, 64, 1, 0, 0]);
  const body = new Uint8Array([1, 255, 255, 255, 255, 3, 0]);
  expect(() => viewer.take({ kind: 'whole', number: 1, generation: 1, clear, body })).toThrow(/too large/);
});
