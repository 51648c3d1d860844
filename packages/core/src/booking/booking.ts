import { refuse, type Decision } from '../decision.ts';
import { transitionBy } from '../transition.ts';

/** A session with a time. `sequence` grows with each change: calendars keep the entry with the highest (RFC 5545). */
export type BookingState =
  { name: 'booked'; startsAtMs: number; minutes: number; sequence: number } | { name: 'cancelled'; sequence: number };

export type BookingEvent = { type: 'moved'; startsAtMs: number; minutes: number } | { type: 'cancelled' };

export const evolveBooking = transitionBy<BookingState, BookingEvent>({
  booked: {
    moved: (s, e) => ({ ...s, startsAtMs: e.startsAtMs, minutes: e.minutes, sequence: s.sequence + 1 }),
    cancelled: (s) => ({ name: 'cancelled', sequence: s.sequence + 1 }),
  },
  cancelled: {},
});

export const MAX_BOOKING_MINUTES = 8 * 60;
const YEAR_MS = 366 * 24 * 3_600_000;

export function decideMoveBooking(
  state: BookingState,
  to: { startsAtMs: number; minutes: number },
  nowMs: number,
): Decision<BookingEvent> {
  if (state.name === 'cancelled') return refuse('BOOKING_CANCELLED');
  if (to.startsAtMs <= nowMs || to.startsAtMs > nowMs + YEAR_MS) return refuse('BOOKING_TIME');
  return [{ type: 'moved', ...to }];
}

/** Cancelling is a fact: what is cancelled stays so. */
export const decideCancelBooking = (state: BookingState): readonly BookingEvent[] =>
  state.name === 'cancelled' ? [] : [{ type: 'cancelled' }];

/** Reminders whose moment is gone already when a time is set: who was told just now needs none. */
/** How long before a booking somebody may want to be reminded of it, at most: two weeks. */
export const MAX_REMIND_MINUTES = 20_160;

export const pastReminders = (startsAtMs: number, remindMinutes: readonly number[], nowMs: number): number[] =>
  remindMinutes.filter((minutes) => nowMs >= startsAtMs - minutes * 60_000);

/** Which reminders are due, of those (in minutes before) that were not sent. One that came too late is not sent at all. */
export function dueReminders(
  booking: { startsAtMs: number; remindMinutes: readonly number[]; reminded: readonly number[] },
  nowMs: number,
): number[] {
  if (nowMs >= booking.startsAtMs) return [];
  return booking.remindMinutes.filter(
    (minutes) => !booking.reminded.includes(minutes) && nowMs >= booking.startsAtMs - minutes * 60_000,
  );
}
