/** Minutes of the week in which the desk is open, in its own time zone; Monday 00:00 is 0. */
export interface OpenSpan {
  readonly fromMinute: number;
  readonly toMinute: number;
}
/** No spans: always open. */
export type OfficeHours = readonly OpenSpan[];

const days = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const DAY_MINUTES = 24 * 60;
const WEEK_MINUTES = 7 * DAY_MINUTES;
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

function minuteOfWeek(atMs: number, timeZone: string): number {
  const parts = new Intl.DateTimeFormat('en-GB', {
    weekday: 'short',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
    timeZone,
  }).formatToParts(atMs);
  const part = (type: string) => parts.find((p) => p.type === type)?.value ?? '';
  return days.indexOf(part('weekday')) * DAY_MINUTES + Number(part('hour')) * 60 + Number(part('minute'));
}

export function isOpenAt(hours: OfficeHours, atMs: number, timeZone: string): boolean {
  if (!hours.length) return true;
  const minute = minuteOfWeek(atMs, timeZone);
  return hours.some((span) => minute >= span.fromMinute && minute < span.toMinute);
}

/** The next moment at which the desk is open; the given one when it is open then. */
export function nextOpening(hours: OfficeHours, atMs: number, timeZone: string): number {
  if (isOpenAt(hours, atMs, timeZone)) return atMs;
  const minute = minuteOfWeek(atMs, timeZone);
  const [first] = hours
    .map((span) => ({ span, wait: (span.fromMinute - minute + WEEK_MINUTES) % WEEK_MINUTES }))
    .sort((a, b) => a.wait - b.wait);
  if (!first) return atMs;
  let next = Math.floor(atMs / 60_000) * 60_000 + first.wait * 60_000;
  // The clocks may be put forward or back in between: then the wall clock is off by as much, and is put right.
  const off = minuteOfWeek(next, timeZone) - first.span.fromMinute;
  next -= (((off + 1.5 * WEEK_MINUTES) % WEEK_MINUTES) - WEEK_MINUTES / 2) * 60_000;
  return next;
}
