import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { strokeRows } from './stroke-rows.ts';

const place = fc.record({
  x: fc.double({ min: 0, max: 300, noNaN: true }),
  y: fc.double({ min: 0, max: 200, noNaN: true }),
});
type Place = { readonly x: number; readonly y: number };

/** How far a pixel's middle lies from a line, by plain geometry. */
function distance(px: number, py: number, from: Place, to: Place): number {
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const t = Math.max(0, Math.min(1, ((px - from.x) * dx + (py - from.y) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(px - from.x - t * dx, py - from.y - t * dy);
}

it('covers what lies within the brush along the line, and nothing that lies clearly outside of it', () => {
  fc.assert(
    fc.property(place, place, fc.integer({ min: 2, max: 11 }), (from, to, radius) => {
      const covered = new Set<string>();
      for (const [x, y, width, height] of strokeRows([from, to], radius)) {
        expect(height).toBe(1);
        expect(width).toBeGreaterThan(0);
        for (let i = 0; i < width; i++) covered.add(`${x + i} ${y}`);
      }
      for (const one of covered) {
        const [x = 0, y = 0] = one.split(' ').map(Number);
        expect(distance(x, y, from, to)).toBeLessThan(radius + 1.5);
      }
      for (let i = 0; i <= 10; i++) {
        const [x, y] = [from.x + ((to.x - from.x) * i) / 10, from.y + ((to.y - from.y) * i) / 10];
        expect(covered.has(`${Math.floor(x)} ${Math.round(y)}`)).toBe(true);
      }
    }),
    runs(),
  );
});

it('draws a single place as a dot, nothing for nothing, and of a marker every third row alone', () => {
  expect([...strokeRows([], 3)]).toEqual([]);
  expect([...strokeRows([{ x: 10, y: 10 }], 3)].length).toBe(7);
  fc.assert(
    fc.property(fc.array(place, { minLength: 1, maxLength: 6 }), (line) => {
      const all = [...strokeRows(line, 11)].map(([x, y, width]) => [x, y, width].join());
      const some = [...strokeRows(line, 11, 3)];
      expect(some.every(([, y]) => y % 3 === 0)).toBe(true);
      expect(some.every(([x, y, width]) => all.includes([x, y, width].join()))).toBe(true);
    }),
    runs(),
  );
});
