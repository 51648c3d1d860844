/** The moment at which a day begins here, so many days later, as ISO 8601; undefined for what is no day like 2026-11-28. */
export function dayBegins(day: string, later = 0): string | undefined {
  const [year = NaN, month = NaN, date = NaN] = day.split('-').map(Number);
  const at = new Date(year, month - 1, date + later);
  return Number.isNaN(at.getTime()) ? undefined : at.toISOString();
}
