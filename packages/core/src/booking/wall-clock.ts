import { Temporal } from 'temporal-polyfill';

/** A day and time as a person says them, without a zone: "2027-03-28" and "09:30". */
export interface WallTime {
  readonly date: string;
  readonly time: string;
}

/** `skipped`: the clocks go over it in that zone. `twice`: they go back over it; the earlier one is meant. */
export interface Moment {
  readonly atMs: number;
  readonly kind: 'once' | 'skipped' | 'twice';
}

export function wallTimeAt(atMs: number, timeZone: string): WallTime {
  const wall = Temporal.Instant.fromEpochMilliseconds(atMs).toZonedDateTimeISO(timeZone);
  return { date: wall.toPlainDate().toString(), time: wall.toPlainTime().toString({ smallestUnit: 'minute' }) };
}

/** The moment at which a clock on the wall shows this. Undefined when the text is no day and time. */
export function momentOf({ date, time }: WallTime, timeZone: string): Moment | undefined {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(date) || !/^\d{2}:\d{2}$/.test(time)) return undefined;
  const wall = plainDateTime(`${date}T${time}`);
  if (!wall) return undefined;
  const [earlier, later] = (['earlier', 'later'] as const).map((disambiguation) =>
    wall.toZonedDateTime(timeZone, { disambiguation }),
  );
  if (!earlier || !later || earlier.equals(later)) return earlier && { atMs: earlier.epochMilliseconds, kind: 'once' };
  // Over it go the clocks: what the old time would have been, which is what the wall shows an hour later.
  if (!earlier.toPlainDateTime().equals(wall)) return { atMs: later.epochMilliseconds, kind: 'skipped' };
  return { atMs: earlier.epochMilliseconds, kind: 'twice' };
}

function plainDateTime(text: string): Temporal.PlainDateTime | undefined {
  try {
    return Temporal.PlainDateTime.from(text, { overflow: 'reject' });
  } catch (error) {
    // A day that no month has.
    if (error instanceof RangeError) return undefined;
    throw error;
  }
}
