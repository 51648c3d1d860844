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

const HOUR_MS = 3_600_000;

function wallOf(atMs: number, timeZone: string): string {
  const parts = new Intl.DateTimeFormat('en-CA', {
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
    timeZone,
  }).formatToParts(atMs);
  const part = (type: string) => parts.find((p) => p.type === type)?.value ?? '';
  return `${part('year')}-${part('month')}-${part('day')}T${part('hour')}:${part('minute')}`;
}

export function wallTimeAt(atMs: number, timeZone: string): WallTime {
  const [date = '', time = ''] = wallOf(atMs, timeZone).split('T');
  return { date, time };
}

/**
 * The moment at which a clock on the wall shows this. No zone is further than a day from UTC, and none changes its
 * clocks by more than a day's quarter, so every moment that could be meant lies among those tried. Undefined when the
 * text is no day and time.
 */
export function momentOf({ date, time }: WallTime, timeZone: string): Moment | undefined {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(date) || !/^\d{2}:\d{2}$/.test(time)) return undefined;
  const asUtcMs = Date.parse(`${date}T${time}:00Z`);
  if (Number.isNaN(asUtcMs) || new Date(asUtcMs).toISOString().slice(0, 10) !== date) return undefined;
  const wanted = `${date}T${time}`;
  const offsets = new Set<number>();
  for (let hours = -27; hours <= 27; hours += 3) {
    const near = asUtcMs + hours * HOUR_MS;
    offsets.add(Date.parse(`${wallOf(near, timeZone)}:00Z`) - near);
  }
  const found = [...offsets].map((offset) => asUtcMs - offset).sort((a, b) => a - b);
  const fitting = found.filter((atMs) => wallOf(atMs, timeZone) === wanted);
  if (fitting[0] !== undefined) return { atMs: fitting[0], kind: fitting.length > 1 ? 'twice' : 'once' };
  // Over it go the clocks: what the old time would have been, which is what the wall shows an hour later.
  return found[found.length - 1] === undefined ? undefined : { atMs: found[found.length - 1] ?? 0, kind: 'skipped' };
}
