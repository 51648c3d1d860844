import { runs } from '@porch/testkit';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { coveredBy, goneOn, isSomething, type Edit } from './edits.ts';

const share = fc.double({ min: 0, max: 1, noNaN: true });
const place = fc.record({ x: share, y: share });

it('covers every pixel that a blank touches, and none outside the picture, whichever way it was drawn', () => {
  const side = fc.integer({ min: 1, max: 4_000 });
  fc.assert(
    fc.property(place, place, side, side, share, share, (a, b, width, height, u, v) => {
      const box = coveredBy({ kind: 'blank', points: [a, b] }, width, height);
      expect([box.x >= 0, box.y >= 0, box.x + box.width <= width, box.y + box.height <= height]).toEqual(
        new Array(4).fill(true),
      );
      // Any place within what was drawn lies on a covered pixel.
      const [x, y] = [(a.x + (b.x - a.x) * u) * width, (a.y + (b.y - a.y) * v) * height];
      const isIn = (at: number, from: number, size: number) => at >= from - 1e-6 && at <= from + size + 1e-6;
      expect([isIn(x, box.x, box.width), isIn(y, box.y, box.height)]).toEqual([true, true]);
    }),
    runs(),
  );
});

it('keeps both ends of what is drawn straight, where the pen went, and never leaves the picture', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('blank', 'box', 'arrow', 'pen'),
      place,
      fc.array(fc.record({ x: fc.double({ min: -3, max: 3, noNaN: true }), y: share }), { minLength: 1, maxLength: 9 }),
      (kind, from, to) => {
        const edit = to.reduce<Edit>((so, at) => goneOn(so, at), { kind, points: [from] });
        expect(edit.points[0]).toEqual(from);
        expect(edit.points.every(({ x }) => x >= 0 && x <= 1)).toBe(true);
        if (kind !== 'pen') expect(edit.points.length).toBe(2);
      },
    ),
    runs(),
  );
});

it('draws nothing where a press went nowhere, or nothing was written', () => {
  const at = { x: 0.5, y: 0.5 };
  for (const kind of ['blank', 'box', 'arrow', 'pen'] as const)
    expect(isSomething(goneOn({ kind, points: [at] }, at)), kind).toBe(false);
  expect(isSomething({ kind: 'text', points: [at], text: '  ' })).toBe(false);
  expect(isSomething({ kind: 'text', points: [at], text: 'here' })).toBe(true);
  expect(isSomething(goneOn({ kind: 'arrow', points: [at] }, { x: 0.6, y: 0.5 }))).toBe(true);
  // A thin one blanks nothing that anybody could see.
  expect(isSomething(goneOn({ kind: 'blank', points: [at] }, { x: 0.9, y: 0.5 }))).toBe(false);
});
