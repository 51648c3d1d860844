import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { whereIn } from './where-in.ts';

const px = (max: number) => fc.integer({ min: 0, max });
const Rect = fc.record({ x: px(900), y: px(600), width: px(500), height: px(400) });

it('is certain only where program and server agree on the window, and the field lies within it', () => {
  const inside = { x: 110, y: 130, width: 80, height: 20 };
  const window = { x: 100, y: 100, width: 300, height: 200 };
  const frame = { x: 99, y: 80, width: 302, height: 221 };
  const covered = { x: 8, y: 47, width: 86, height: 26 };
  expect(whereIn({ field: inside, window }, { rect: window, topRect: frame })).toEqual(covered);
  // Some programs count the frame as theirs.
  expect(whereIn({ field: inside, window: frame }, { rect: window, topRect: frame })).toEqual(covered);
  // Elsewhere, of another size, at another scale: nobody is sure.
  for (const said of [
    { ...window, x: 104 },
    { ...window, width: 150, height: 100 },
    { x: 0, y: 0, width: 0, height: 0 },
  ])
    expect(whereIn({ field: inside, window: said }, { rect: window, topRect: frame })).toBeUndefined();
  for (const field of [
    { ...inside, x: 350 },
    { ...inside, y: 60 },
    { ...inside, height: 0 },
  ])
    expect(whereIn({ field, window }, { rect: window, topRect: frame })).toBeUndefined();
});

it('never leaves any of a field uncovered that lies where it is said to', () => {
  fc.assert(
    fc.property(Rect, Rect, Rect, (field, window, topRect) => {
      const part = whereIn({ field, window }, { rect: window, topRect });
      if (!part) return;
      expect(part.x + topRect.x).toBeLessThanOrEqual(field.x);
      expect(part.y + topRect.y).toBeLessThanOrEqual(field.y);
      expect(part.x + topRect.x + part.width).toBeGreaterThanOrEqual(field.x + field.width);
      expect(part.y + topRect.y + part.height).toBeGreaterThanOrEqual(field.y + field.height);
    }),
    runs(),
  );
});
