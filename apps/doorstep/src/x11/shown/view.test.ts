import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { drawPart } from './shrink.ts';
import { fitted, original, pointAt, shownPart } from './view.ts';

const side = (max: number) => fc.integer({ min: 1, max });
const picture = fc.record({ width: side(400), height: side(300) });
const room = fc.record({ x: fc.nat(40), y: fc.nat(60), width: side(300), height: side(300) });
const from = fc.record({ x: fc.integer({ min: -100, max: 500 }), y: fc.integer({ min: -100, max: 400 }) });

it('lies within its room in its own proportions, is never larger than it is, and shows no more than there is', () => {
  fc.assert(
    fc.property(picture, room, from, (size, within, at) => {
      for (const view of [fitted(size, within), original(size, within, at)]) {
        const { box, scale } = view;
        expect(scale).toBeLessThanOrEqual(1);
        expect(box.x).toBeGreaterThanOrEqual(within.x);
        expect(box.y).toBeGreaterThanOrEqual(within.y);
        expect(box.x + box.width).toBeLessThanOrEqual(within.x + within.width + 1);
        expect(box.y + box.height).toBeLessThanOrEqual(within.y + within.height + 1);
        // Whatever is drawn into it is there in the picture.
        const last = pointAt(view, box.x + box.width - 1, box.y + box.height - 1);
        expect(last.x).toBeLessThan(size.width + 1);
        expect(last.y).toBeLessThan(size.height + 1);
        expect(Math.min(view.from.x, view.from.y)).toBeGreaterThanOrEqual(0);
      }
    }),
    runs(),
  );
});

it('draws each part as it draws the whole, so that nothing is left of what was there before', () => {
  fc.assert(
    fc.property(
      fc.record({ width: side(60), height: side(40) }),
      fc.record({ x: fc.constant(0), y: fc.constant(44), width: side(50), height: side(50) }),
      fc.boolean(),
      fc.record({ x: fc.nat(59), y: fc.nat(39), width: side(60), height: side(40) }),
      fc.integer(),
      (size, within, isOriginal, changed, seed) => {
        const rgba = new Uint8ClampedArray(size.width * size.height * 4);
        const words = new Uint32Array(rgba.buffer);
        words.forEach((_, i) => (words[i] = Math.imul(i + 1, seed | 1) >>> 0));
        const view = isOriginal ? original(size, within, { x: 7, y: 5 }) : fitted(size, within);
        const whole = () => drawPart(rgba, size, view, { x: 0, y: 0, width: view.box.width, height: view.box.height });
        const before = whole().bgrx;
        const inside = {
          ...changed,
          width: Math.min(changed.width, size.width - changed.x),
          height: Math.min(changed.height, size.height - changed.y),
        };
        if (inside.width <= 0 || inside.height <= 0) return;
        for (let y = inside.y; y < inside.y + inside.height; y++)
          words.fill(0xff10_20d0, y * size.width + inside.x, y * size.width + inside.x + inside.width);
        const part = shownPart(view, inside);
        if (part) {
          const drawn = drawPart(rgba, size, view, part);
          for (let row = 0; row < part.height; row++)
            drawn.bgrx.copy(
              before,
              ((part.y + row) * view.box.width + part.x) * 4,
              row * part.width * 4,
              (row + 1) * part.width * 4,
            );
        }
        expect(before.equals(whole().bgrx)).toBe(true);
      },
    ),
    runs(),
  );
});

it('keeps what is of one colour, and the mean of what is of two', () => {
  const rgba = new Uint8ClampedArray(8 * 2 * 4);
  for (let i = 0; i < 16; i++) rgba.set(i % 2 ? [200, 100, 0, 255] : [0, 100, 200, 255], i * 4);
  const view = fitted({ width: 8, height: 2 }, { x: 0, y: 0, width: 4, height: 1 });
  expect(view.scale).toBe(0.5);
  const { bgrx } = drawPart(rgba, { width: 8, height: 2 }, view, { x: 0, y: 0, width: 4, height: 1 });
  expect([...bgrx]).toEqual(Array.from({ length: 4 }, () => [100, 100, 100, 0]).flat());
});
