import { momentOf } from '@porch/core';
import { AppError } from '@porch/wire';

/** Throws TIME_ZONE_UNKNOWN, BOOKING_TIME, BOOKING_TIME_SKIPPED. */
export function momentIn(when: { date: string; time: string }, timeZone: string): number {
  let moment;
  try {
    moment = momentOf(when, timeZone);
  } catch (cause) {
    throw new AppError('TIME_ZONE_UNKNOWN', {}, { cause });
  }
  if (!moment) throw new AppError('BOOKING_TIME');
  if (moment.kind === 'skipped') throw new AppError('BOOKING_TIME_SKIPPED');
  return moment.atMs;
}
