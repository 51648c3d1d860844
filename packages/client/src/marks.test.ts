import { Mark, MAX_GROWN_POINTS, type MarkMessage } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { FADE_MS, MarkBoard, markPath, MAX_MARKS, POINT_MS, withMark, withoutMark, type ShownMark } from './marks.ts';

const share = fc.double({ min: 0, max: 1, noNaN: true });
const mark = fc.record({
  kind: fc.constantFrom('point' as const, 'pen' as const, 'marker' as const, 'arrow' as const, 'box' as const),
  points: fc.array(fc.record({ x: share, y: share }), { minLength: 1, maxLength: 20 }),
});

it('draws every mark as a path of numbers, whatever its points and the picture’s proportion', () => {
  fc.assert(
    fc.property(mark, fc.double({ min: 0.3, max: 4, noNaN: true }), (m, proportion) => {
      expect(Mark.safeParse(m).success).toBe(true);
      expect(markPath(m, proportion)).toMatch(/^M [-\d. ML]+$/);
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
      drawn.forEach(
        ([seat, m], i) => (marks = withMark(marks, { key: i, id: i + 1, display: 0, fades: false, seat, mark: m })),
      );
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

const message: fc.Arbitrary<MarkMessage> = fc.oneof(
  fc.record({
    type: fc.constant('mark' as const),
    id: fc.integer({ min: 0, max: 4 }),
    display: fc.constant(0),
    fades: fc.boolean(),
    mark,
  }),
  fc.record({
    type: fc.constant('more' as const),
    id: fc.integer({ min: 0, max: 4 }),
    points: fc.array(fc.record({ x: share, y: share }), { minLength: 1, maxLength: 200 }),
  }),
  fc.record({
    type: fc.constant('unmark' as const),
    which: fc.constantFrom('last' as const, 'all' as const, 'everybodys' as const),
  }),
);

it('grows only lines, no further than a mark may, lets go by itself of what fades, and keeps no timer of what went', () => {
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.integer({ min: 1, max: 2 }), message), { maxLength: 60 }), (did) => {
      const clock = new VirtualClock();
      const board = new MarkBoard(clock, () => undefined);
      for (const [seat, what] of did) {
        const before = board.marks;
        board.take(seat, what);
        for (const m of board.marks) expect(m.mark.points.length).toBeLessThanOrEqual(MAX_GROWN_POINTS);
        if (what.type === 'more')
          for (const [i, m] of board.marks.entries()) {
            const grew = m.mark.points.length - (before[i]?.mark.points.length ?? 0);
            const isMeant = m.seat === seat && m.id === what.id && what.id > 0;
            const isLine = m.mark.kind === 'pen' || m.mark.kind === 'marker';
            expect(grew).toBe(isMeant && isLine ? what.points.length : 0);
          }
      }
      clock.advance(Math.max(POINT_MS, FADE_MS));
      expect(board.marks.every(({ fades, mark: m }) => !fades && m.kind !== 'point')).toBe(true);
      const isCalledFor = board.marks.length;
      board.close();
      expect(board.marks).toEqual([]);
      expect(clock.pending, `${isCalledFor} marks`).toBe(0);
    }),
    runs(),
  );
});
