import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { allBut, restOf, seenOf, type Layer } from './seen-of-one.ts';

const SIDE = 12;
const rect = fc
  .tuple(fc.nat(SIDE - 1), fc.nat(SIDE - 1), fc.integer({ min: 1, max: SIDE }), fc.integer({ min: 1, max: SIDE }))
  .map(([x, y, width, height]) => ({ x, y, width, height }));
const layers = fc.array(fc.record({ isShown: fc.boolean(), rects: fc.array(rect, { maxLength: 3 }) }), {
  maxLength: 8,
});

const has = (rects: Layer['rects'], x: number, y: number): boolean =>
  rects.some((r) => x >= r.x && y >= r.y && x < r.x + r.width && y < r.y + r.height);
const everyPixel = (look: (x: number, y: number) => void) => {
  for (let y = 0; y < SIDE; y++) for (let x = 0; x < SIDE; x++) look(x, y);
};

it('sees a pixel where a shown one has it and no other has it above, and covers every other pixel', () => {
  fc.assert(
    fc.property(layers, (drawn) => {
      const seen = seenOf(drawn);
      const unseen = allBut(seen);
      everyPixel((x, y) => {
        const highestOther = drawn.findLastIndex((layer) => !layer.isShown && has(layer.rects, x, y));
        const isSeen = drawn.some((layer, at) => layer.isShown && at > highestOther && has(layer.rects, x, y));
        expect([has(seen, x, y), has(unseen, x, y)]).toEqual([isSeen, !isSeen]);
      });
    }),
    runs(),
  );
});

it('leaves of some rectangles what lies in none of the others', () => {
  fc.assert(
    fc.property(fc.array(rect, { maxLength: 5 }), fc.array(rect, { maxLength: 5 }), (rects, others) => {
      const rest = restOf(rects, others);
      everyPixel((x, y) => expect(has(rest, x, y)).toBe(has(rects, x, y) && !has(others, x, y)));
    }),
    runs(),
  );
});
