import { locales, type Language } from './built/languages.ts';

/** Numbers, lists, moments and lengths of time as people of one language read them. */
export interface Speech {
  readonly language: Language;
  /** “one, two and three”. */
  list(words: readonly string[]): string;
  number(n: number): string;
  bytes(bytes: number): string;
  percent(share: number): string;
  /** Hour and minute on a clock of 24 hours. */
  clock(atMs: number): string;
  /** Hour, minute and second. */
  clockToTheSecond(atMs: number): string;
  date(atMs: number): string;
  /** Weekday, day and month. */
  day(atMs: number): string;
  /** Date and clock, short. */
  dayAndTime(atMs: number): string;
  /** Weekday and clock, for what is not far away. */
  weekdayAndTime(atMs: number): string;
  /** Everything, with the zone: for whoever sits elsewhere. */
  exactly(atMs: number): string;
  /** Date and clock to the second: for whoever wants to know it exactly. */
  exactlyHere(atMs: number): string;
  minutes(minutes: number): string;
  /** How long something takes yet, roughly: seconds, minutes or hours. */
  roughly(spanMs: number): string;
  /** “4 minutes ago”, “in 2 hours”: how far a moment is from now. */
  fromNow(distanceMs: number): string;
  /** The same words with a capital in front. */
  capital(text: string): string;
}

const MINUTE_MS = 60_000;
const HOUR_MS = 60 * MINUTE_MS;
const DAY_MS = 24 * HOUR_MS;

type DateOptions = Intl.DateTimeFormatOptions;
const CLOCK = { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' } as const satisfies DateOptions;
const DAY = { weekday: 'long', day: 'numeric', month: 'long' } as const satisfies DateOptions;

const kept = new Map<string, Speech>();

/** Without a zone, moments are told in the zone of the computer that tells them. */
export function speechOf(language: Language, timeZone?: string): Speech {
  const key = `${language} ${timeZone ?? ''}`;
  const known = kept.get(key) ?? makeSpeech(language, timeZone);
  kept.set(key, known);
  return known;
}

function makeSpeech(language: Language, timeZone: string | undefined): Speech {
  const locale = locales[language];
  const lists = once(() => new Intl.ListFormat(locale, { type: 'conjunction' }));
  const numbers = once(() => new Intl.NumberFormat(locale));
  const tenths = once(() => new Intl.NumberFormat(locale, { minimumFractionDigits: 1, maximumFractionDigits: 1 }));
  const percents = once(() => new Intl.NumberFormat(locale, { style: 'percent', maximumFractionDigits: 0 }));
  const relative = once(() => new Intl.RelativeTimeFormat(locale, { numeric: 'auto' }));
  const dates = (options: DateOptions) => {
    const format = once(() => new Intl.DateTimeFormat(locale, { ...options, ...(timeZone ? { timeZone } : {}) }));
    return (atMs: number) => format().format(atMs);
  };
  const units = (unit: string, unitDisplay: 'long' | 'short') => {
    const format = once(() => new Intl.NumberFormat(locale, { style: 'unit', unit, unitDisplay }));
    return (n: number) => format().format(n);
  };
  return {
    language,
    list: (words) => lists().format(words),
    number: (n) => numbers().format(n),
    bytes: (bytes) => {
      if (bytes < 1024) return `${numbers().format(bytes)} B`;
      if (bytes < 1024 * 1024) return `${tenths().format(bytes / 1024)} kB`;
      if (bytes < 1024 ** 3) return `${tenths().format(bytes / 1024 ** 2)} MB`;
      return `${tenths().format(bytes / 1024 ** 3)} GB`;
    },
    percent: (share) => percents().format(share),
    clock: dates(CLOCK),
    clockToTheSecond: dates({ ...CLOCK, second: '2-digit' }),
    date: dates({ day: 'numeric', month: 'short', year: 'numeric' }),
    day: dates(DAY),
    dayAndTime: dates({ ...CLOCK, day: 'numeric', month: 'short', year: 'numeric' }),
    weekdayAndTime: dates({ ...CLOCK, weekday: 'long' }),
    exactly: dates({ ...CLOCK, ...DAY, timeZoneName: 'short' }),
    exactlyHere: dates({ ...CLOCK, second: '2-digit', day: 'numeric', month: 'short', year: 'numeric' }),
    roughly(spanMs) {
      const [unit, ms, digits] =
        spanMs < MINUTE_MS
          ? (['second', 1_000, 0] as const)
          : spanMs < HOUR_MS
            ? (['minute', MINUTE_MS, 0] as const)
            : (['hour', HOUR_MS, 1] as const);
      const style = { style: 'unit', unit, unitDisplay: 'short', maximumFractionDigits: digits } as const;
      return new Intl.NumberFormat(locale, style).format(Math.max(unit === 'second' ? 1 : 0, spanMs / ms));
    },
    minutes: units('minute', 'long'),
    fromNow: (distanceMs) => {
      const far = Math.abs(distanceMs);
      if (far < MINUTE_MS) return relative().format(Math.trunc(distanceMs / 1000), 'second');
      if (far < HOUR_MS) return relative().format(Math.trunc(distanceMs / MINUTE_MS), 'minute');
      if (far < DAY_MS) return relative().format(Math.trunc(distanceMs / HOUR_MS), 'hour');
      return relative().format(Math.trunc(distanceMs / DAY_MS), 'day');
    },
    capital: (text) => text.charAt(0).toLocaleUpperCase(locale) + text.slice(1),
  };
}

/** Made when it is first asked for: a page needs few of these, and each costs time. */
function once<T>(make: () => T): () => T {
  let made: T | undefined;
  return () => (made ??= make());
}
