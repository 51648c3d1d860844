import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { isOpenAt, nextOpening, readOfficeHours } from './office-hours.ts';

/** No zone is off by less, and the hours begin on the hour. */
const QUARTER_MS = 15 * 60_000;
const OSLO = 'Europe/Oslo';
const hours = readOfficeHours('Mon-Fri 07:00-17:00; Sat 09:00-13:00');
const at = (iso: string) => Date.parse(iso);

it('is open when the wall clock of the desk says so', () => {
  // Monday 23 November 2026, 06:59 and 07:00 in Oslo.
  expect(isOpenAt(hours, at('2026-11-23T05:59:59Z'), OSLO)).toBe(false);
  expect(isOpenAt(hours, at('2026-11-23T06:00:00Z'), OSLO)).toBe(true);
  expect(isOpenAt(hours, at('2026-11-23T16:00:00Z'), OSLO)).toBe(false);
  expect(isOpenAt([], 0, OSLO)).toBe(true);
});

it('says when it opens next, over a weekend and over the nights in which the clocks change', () => {
  expect(nextOpening(hours, at('2026-11-21T14:00:00Z'), OSLO)).toBe(at('2026-11-23T06:00:00Z'));
  expect(nextOpening(hours, at('2026-11-23T09:12:00Z'), OSLO)).toBe(at('2026-11-23T09:12:00Z'));
  // 28 March 2027 02:00 becomes 03:00; 25 October 2026 03:00 becomes 02:00.
  expect(nextOpening(hours, at('2027-03-27T18:30:00Z'), OSLO)).toBe(at('2027-03-29T05:00:00Z'));
  expect(nextOpening(hours, at('2026-10-24T18:30:00Z'), OSLO)).toBe(at('2026-10-26T06:00:00Z'));
});

it('refuses what it cannot read, with the part that is wrong', () => {
  for (const text of ['Mon 7-17', 'Fri-Mon 07:00-17:00', 'Mon 17:00-07:00', 'Xyz 07:00-08:00'])
    expect(() => readOfficeHours(`Tue 08:00-09:00; ${text}`)).toThrow(text);
});

it('property: the next opening is the first quarter of an hour that is open, in any zone and over any change of the clocks', () => {
  const zones = fc.constantFrom(
    OSLO,
    'Europe/London',
    'America/New_York',
    'Australia/Lord_Howe',
    'Asia/Kolkata',
    'UTC',
  );
  const moments = fc.integer({
    min: at('2026-01-01T00:00:00Z') / QUARTER_MS,
    max: at('2027-12-31T00:00:00Z') / QUARTER_MS,
  });
  fc.assert(
    fc.property(zones, moments, (zone, quarter) => {
      const nowMs = quarter * QUARTER_MS;
      // Every quarter is looked at: slow, and plainly right.
      let expectedMs = nowMs;
      while (!isOpenAt(hours, expectedMs, zone)) expectedMs += QUARTER_MS;
      expect(nextOpening(hours, nowMs, zone)).toBe(expectedMs);
    }),
    runs(),
  );
});
