import { runs } from '@porch/testkit';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { CameraPace } from './pace.ts';

/** A line on which two pictures at a time are on the way; hands back the sizes that were chosen. */
function over(line: { bytesPerMs: number; roundTripMs: number }, pictures: number): number[] {
  const pace = new CameraPace();
  return Array.from({ length: pictures }, () => {
    const longest = pace.longestPixels;
    // Twice its own time on the line, since another one is before it.
    const bytes = (longest * longest) / 14;
    pace.arrived(longest, line.roundTripMs + (2 * bytes) / line.bytesPerMs);
    return longest;
  });
}

it('comes to the largest on a good line, whatever its round trip', () => {
  for (const roundTripMs of [2, 100, 700]) expect(over({ bytesPerMs: 5_000, roundTripMs }, 60).at(-1)).toBe(1280);
});

it('comes to small ones on a bad line, and tries larger ones ever more seldom', () => {
  const sizes = over({ bytesPerMs: 32, roundTripMs: 300 }, 2_000);
  const changes = (from: number, to: number) => sizes.slice(from, to).filter((size, i, all) => size !== all[i - 1]);
  expect(Math.max(...sizes.slice(1_000))).toBeLessThanOrEqual(640);
  expect(sizes.slice(1_000).filter((size) => size === 640).length, 'tries').toBeLessThan(10);
  expect(changes(1_000, 2_000).length).toBeLessThan(changes(0, 1_000).length);
  expect(changes(1_000, 2_000).length).toBeLessThan(20);
});

it('goes down at once when the line becomes bad, and one that is too large goes down on any line', () => {
  const pace = new CameraPace();
  for (let i = 0; i < 60; i++) pace.arrived(pace.longestPixels, 20);
  const good = pace.longestPixels;
  pace.arrived(good, 900);
  expect(pace.longestPixels).toBeLessThan(good);
  // What was sent before in the other size says nothing of this one.
  const smaller = pace.longestPixels;
  pace.arrived(good, 5_000);
  expect(pace.longestPixels).toBe(smaller);
  pace.tooLarge();
  expect(pace.longestPixels).toBeLessThan(smaller);
});

it('is always one of the sizes, and moves one at a time, whatever arrives', () => {
  const sizes = [320, 480, 640, 960, 1280];
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.nat(4), fc.double({ min: 0, max: 60_000, noNaN: true }))), (arrivals) => {
      const pace = new CameraPace();
      for (const [size, tookMs] of arrivals) {
        const before = sizes.indexOf(pace.longestPixels);
        pace.arrived(sizes[size] ?? 0, tookMs);
        const now = sizes.indexOf(pace.longestPixels);
        expect(now).toBeGreaterThanOrEqual(0);
        expect(Math.abs(now - before)).toBeLessThanOrEqual(1);
      }
    }),
    runs(),
  );
});
