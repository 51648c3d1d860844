import { Temporal } from 'temporal-polyfill';

/** Minutes of the week in which the desk is open, in its own time zone; Monday 00:00 is 0. */
export interface OpenSpan {
  readonly fromMinute: number;
  readonly toMinute: number;
}
/** No spans: always open. */
export type OfficeHours = readonly OpenSpan[];

const days = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const DAY_MINUTES = 24 * 60;
const PART = /^(\w{3})(?:-(\w{3}))? (\d{1,2}):(\d{2})-(\d{1,2}):(\d{2})$/;

/** Reads "Mon-Fri 07:00-17:00; Sat 09:00-13:00". Throws with the part that has another form. */
export function readOfficeHours(text: string): OfficeHours {
  return text
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean)
    .flatMap((part) => {
      const [, first = '', last = first, fromHour, fromMinute, toHour, toMinute] = PART.exec(part) ?? [];
      const [a, b] = [days.indexOf(first), days.indexOf(last)];
      const [from, to] = [Number(fromHour) * 60 + Number(fromMinute), Number(toHour) * 60 + Number(toMinute)];
      if (a < 0 || b < a || !(from < to) || to > DAY_MINUTES)
        throw new Error(`“${part}” is not like “Mon-Fri 07:00-17:00”`);
      return Array.from({ length: b - a + 1 }, (_, i) => ({
        fromMinute: (a + i) * DAY_MINUTES + from,
        toMinute: (a + i) * DAY_MINUTES + to,
      }));
    });
}

const wallAt = (atMs: number, timeZone: string) =>
  Temporal.Instant.fromEpochMilliseconds(atMs).toZonedDateTimeISO(timeZone);

export function isOpenAt(hours: OfficeHours, atMs: number, timeZone: string): boolean {
  if (!hours.length) return true;
  const { dayOfWeek, hour, minute } = wallAt(atMs, timeZone);
  const at = (dayOfWeek - 1) * DAY_MINUTES + hour * 60 + minute;
  return hours.some((span) => at >= span.fromMinute && at < span.toMinute);
}

/**
 * The next moment at which the desk is open; the given one when it is open then. Where the clocks go forward over the
 * hour of opening, it opens when they have.
 */
export function nextOpening(hours: OfficeHours, atMs: number, timeZone: string): number {
  if (isOpenAt(hours, atMs, timeZone)) return atMs;
  const today = wallAt(atMs, timeZone).toPlainDate();
  const openings = Array.from({ length: 8 }, (_, days) => today.add({ days })).flatMap((date) =>
    hours
      .map((span) => span.fromMinute - (date.dayOfWeek - 1) * DAY_MINUTES)
      .filter((minute) => minute >= 0 && minute < DAY_MINUTES)
      .map((minute) =>
        date.toZonedDateTime({
          timeZone,
          plainTime: { hour: Math.floor(minute / 60), minute: minute % 60 },
        }),
      ),
  );
  const coming = openings.map(({ epochMilliseconds }) => epochMilliseconds).filter((openMs) => openMs > atMs);
  return coming.length ? Math.min(...coming) : atMs;
}
