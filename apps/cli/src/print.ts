/** Tables of at most 100 columns; `--json` prints the value itself instead. */
const MAX_COLUMNS = 100;

export function printJson(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value, undefined, 2)}\n`);
}
export const printLine = (text: string): void => void process.stdout.write(`${text}\n`);

/** The last column gives way when the line would be too long. */
export function printTable(headings: readonly string[], rows: readonly (readonly string[])[]): void {
  if (!rows.length) return;
  const widths = headings.map((heading, i) => Math.max(heading.length, ...rows.map((row) => row[i]?.length ?? 0)));
  const last = widths.length - 1;
  const before = widths.slice(0, last).reduce((sum, w) => sum + w + 2, 0);
  widths[last] = Math.max(8, Math.min(widths[last] ?? 0, MAX_COLUMNS - before));
  const line = (cells: readonly string[]) =>
    cells
      .map((cell, i) => (i === last ? cut(cell, widths[i] ?? 0) : cell.padEnd(widths[i] ?? 0)))
      .join('  ')
      .trimEnd();
  for (const row of [headings, ...rows]) printLine(line(row));
}

const cut = (text: string, width: number) => (text.length > width ? `${text.slice(0, width - 1)}…` : text);

export const clock = (atMs: number): string => new Date(atMs).toLocaleTimeString('en-GB');

export function ago(atMs: number, nowMs: number): string {
  const seconds = Math.max(0, Math.round((nowMs - atMs) / 1000));
  if (seconds < 60) return `${seconds} s`;
  if (seconds < 3600) return `${Math.round(seconds / 60)} min`;
  return `${Math.round(seconds / 3600)} h`;
}

export function countDown(ms: number): string {
  const seconds = Math.max(0, Math.ceil(ms / 1000));
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;
}
