/**
 * A table as CSV (RFC 4180). A cell that a spreadsheet would take for a formula begins with an apostrophe: what is in it
 * may be anybody's words.
 */
export const csvOf = (headings: readonly string[], rows: readonly (readonly string[])[]): string =>
  [headings, ...rows].map((row) => `${headings.map((_, i) => cellOf(row[i] ?? '')).join(',')}\r\n`).join('');

function cellOf(text: string): string {
  const safe = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}
