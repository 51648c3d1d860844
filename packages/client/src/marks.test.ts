import { Mark } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { markPath, MAX_MARKS, withMark, withoutMark, type ShownMark } from './marks.ts';

const share = fc.double({ min: 0, max: 1, noNaN: true });
const mark = fc.record({
  kind: fc.constantFrom('point' as const, 'pen' as const, 'arrow' as const, 'box' as const),
  points: fc.array(fc.record({ x: share, y: share }), { minLength: 1, maxLength: 20 }),
});

it('draws every mark as a path of numbers, whatever its points and the picture’s proportion', () => {
  fc.assert(
    fc.property(mark, fc.double({ min: 0.3, max: 4, noNaN: true }), (m, proportion) => {
      expect(Mark.safeParse(m).success).toBe(true);
      expect(markPath(m, proportion)).toMatch(/^M [-\d. MLZae]+$/);
    }),
    runs(),
  );
  expect(Mark.safeParse({ kind: 'pen', points: [] }).success).toBe(false);
  expect(Mark.safeParse({ kind: 'pen', points: [{ x: 1.1, y: 0 }] }).success).toBe(false);
});

it('keeps nobody’s marks beyond the bound, one point each, and takes away only one’s own', () => {
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.integer({ min: 1, max: 2 }), mark), { maxLength: 150 }), (drawn) => {
      let marks: ShownMark[] = [];
      drawn.forEach(([seat, m], id) => (marks = withMark(marks, { id, seat, mark: m })));
      for (const seat of [1, 2]) {
        const mine = marks.filter((m) => m.seat === seat);
        expect(mine.length).toBeLessThanOrEqual(MAX_MARKS);
        expect(mine.filter((m) => m.mark.kind === 'point').length).toBeLessThanOrEqual(1);
        const left = withoutMark(marks, seat, 'last');
        expect(left.length).toBe(marks.length - Math.min(1, mine.length));
        expect(withoutMark(marks, seat, 'all')).toEqual(marks.filter((m) => m.seat !== seat));
      }
    }),
    runs(),
  );
});
