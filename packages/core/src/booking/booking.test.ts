import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Decision } from '../decision.ts';
import {
  decideCancelBooking,
  decideMoveBooking,
  dueReminders,
  evolveBooking,
  type BookingEvent,
  type BookingState,
} from './booking.ts';
import { momentOf, wallTimeAt } from './wall-clock.ts';

const zones = ['Europe/Oslo', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'Pacific/Apia', 'UTC'];

it('finds the moment that a wall clock shows, in every zone, and back', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...zones),
      fc.integer({ min: Date.UTC(2024, 0, 1) / 60_000, max: Date.UTC(2030, 0, 1) / 60_000 }),
      (zone, minute) => {
        const atMs = minute * 60_000;
        const found = momentOf(wallTimeAt(atMs, zone), zone);
        expect(found?.kind).not.toBe('skipped');
        // Twice: the earlier of the two shows the same on the wall.
        if (found?.kind === 'once') expect(found.atMs).toBe(atMs);
        else expect(wallTimeAt(found?.atMs ?? 0, zone)).toEqual(wallTimeAt(atMs, zone));
      },
    ),
    runs(),
  );
});

it('knows the hour that does not exist and the hour that comes twice', () => {
  expect(momentOf({ date: '2027-03-28', time: '02:30' }, 'Europe/Oslo')).toEqual({
    atMs: Date.parse('2027-03-28T01:30:00Z'),
    kind: 'skipped',
  });
  expect(momentOf({ date: '2026-10-25', time: '02:30' }, 'Europe/Oslo')).toEqual({
    atMs: Date.parse('2026-10-25T00:30:00Z'),
    kind: 'twice',
  });
  expect(momentOf({ date: '2026-10-26', time: '09:00' }, 'Europe/Oslo')?.atMs).toBe(Date.parse('2026-10-26T08:00:00Z'));
  for (const [date, time] of [
    ['2026-02-30', '09:00'],
    ['2026-02-03', '25:00'],
    ['soon', '09:00'],
  ] as const)
    expect(momentOf({ date, time }, 'UTC')).toBeUndefined();
});

it('grows its sequence with every change, and nothing follows a cancellation', () => {
  const now = 1_000_000;
  fc.assert(
    fc.property(
      fc.array(fc.option(fc.integer({ min: now - 10, max: now + 1_000 }), { freq: 4 }), { maxLength: 12 }),
      (steps) => {
        let state: BookingState = { name: 'booked', startsAtMs: now + 5, minutes: 30, sequence: 0 };
        for (const to of steps) {
          const decision: Decision<BookingEvent> =
            to === null ? decideCancelBooking(state) : decideMoveBooking(state, { startsAtMs: to, minutes: 15 }, now);
          if ('refused' in decision) {
            expect(state.name === 'cancelled' || (to ?? 0) <= now).toBe(true);
            continue;
          }
          const before: BookingState = state;
          for (const event of decision) state = evolveBooking(state, event) ?? state;
          expect(state.sequence).toBe(before.sequence + decision.length);
          expect(before.name === 'cancelled' ? state : before.name).toBe(
            before.name === 'cancelled' ? before : 'booked',
          );
        }
      },
    ),
    runs(),
  );
});

it('reminds once for each time, late rather than never, and not after it began', () => {
  const booking = { startsAtMs: 100 * 60_000, remindMinutes: [60, 10], reminded: [] as number[] };
  expect(dueReminders(booking, 39 * 60_000)).toEqual([]);
  expect(dueReminders(booking, 40 * 60_000)).toEqual([60]);
  expect(dueReminders({ ...booking, reminded: [60] }, 95 * 60_000)).toEqual([10]);
  expect(dueReminders(booking, 100 * 60_000)).toEqual([]);
});
