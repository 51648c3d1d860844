import stringWidth from 'string-width';

/** As wide as a table gets; the last column gives way. */
export const MAX_COLUMNS = 100;
const LEAST_LAST = 8;
const GAP = '  ';

// C0 and C1 but for the tab, and the marks that turn the direction of what comes after them.
const ACTS = /[\u0000-\u0008\u000a-\u001f\u007f-\u009f\u2028\u2029]/gu;
const TURNS = /[\u200e\u200f\u202a-\u202e\u2066-\u2069\u061c]/gu;
const RIGHT_TO_LEFT = /[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufefc\u{10800}-\u{10fff}\u{1e800}-\u{1efff}]/u;

/**
 * Words of others in one line of a terminal: nothing in them is obeyed, and words from right to left turn nothing around
 * that stands beside them (isolates of UAX #9).
 */
export function forTerminal(text: string): string {
  const plain = text.replace(/\t/g, ' ').replace(ACTS, '·').replace(TURNS, '');
  return RIGHT_TO_LEFT.test(plain) ? `\u2068${plain}\u2069` : plain;
}

/** A table as lines, in columns of a terminal whatever script is in it. No rows: no lines. */
export function tableOf(headings: readonly string[], rows: readonly (readonly string[])[]): string[] {
  if (!rows.length) return [];
  const cells = [headings, ...rows].map((row) => headings.map((_, i) => forTerminal(row[i] ?? '')));
  const widths = headings.map((_, i) => Math.max(...cells.map((row) => stringWidth(row[i] ?? ''))));
  const last = widths.length - 1;
  const before = widths.slice(0, last).reduce((sum, width) => sum + width + GAP.length, 0);
  widths[last] = Math.max(LEAST_LAST, Math.min(widths[last] ?? 0, MAX_COLUMNS - before));
  return cells.map((row) =>
    row
      .map((cell, i) => (i === last ? cut(cell, widths[i] ?? 0) : padded(cell, widths[i] ?? 0)))
      .join(GAP)
      .trimEnd(),
  );
}

const padded = (text: string, width: number): string => text + ' '.repeat(Math.max(0, width - stringWidth(text)));

const characters = new Intl.Segmenter(undefined, { granularity: 'grapheme' });

/** Between characters as people see them, and an isolate that was begun is ended. */
function cut(text: string, width: number): string {
  if (stringWidth(text) <= width) return text;
  let kept = '';
  let used = 0;
  for (const { segment } of characters.segment(text)) {
    used += stringWidth(segment);
    if (used > width - 1) break;
    kept += segment;
  }
  return `${kept}…${kept.startsWith('\u2068') ? '\u2069' : ''}`;
}
