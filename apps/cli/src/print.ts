import { results, speech } from './words.ts';
import { csvOf, forTerminal, tableOf } from '@porch/client/terminal';

/** How a command prints what it found. */
export interface PrintOptions {
  json?: boolean;
  csv?: boolean;
}

export function printJson(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value, undefined, 2)}\n`);
}
/** Line by line, and nothing in the words of others is obeyed by the terminal. */
export const printLine = (text: string): void =>
  void process.stdout.write(`${text.split('\n').map(forTerminal).join('\n')}\n`);

/** Tables of at most 100 columns; the last column gives way when a line would be too long. */
export function printTable(headings: readonly string[], rows: readonly (readonly string[])[]): void {
  for (const line of tableOf(headings, rows)) process.stdout.write(`${line}\n`);
}

/** One column: its heading, and what of each thing stands in it. */
export type Column<T> = readonly [heading: string, of: (thing: T) => string];
export interface List<T> {
  readonly items: readonly T[];
  /** What to ask for the next page with. */
  readonly next?: string | undefined;
}

/** A list, the same in every command: a table with a word when it is empty, `{items, next}` as JSON, or CSV. */
export function printList<T>(
  { items, next }: List<T>,
  options: PrintOptions,
  columns: readonly Column<T>[],
  whenEmpty: string,
): void {
  const headings = columns.map(([heading]) => heading);
  const rows = items.map((thing) => columns.map(([, of]) => of(thing)));
  if (options.json) printJson({ items, ...(next === undefined ? {} : { next }) });
  else if (options.csv) process.stdout.write(csvOf(headings, rows));
  else if (items.length) printTable(headings, rows);
  else printLine(whenEmpty);
  if (options.json || next === undefined) return;
  const more = results.more({ next });
  // Whoever reads CSV reads rows alone.
  if (options.csv) process.stderr.write(`${more}\n`);
  else printLine(`\n${more}`);
}

export const clock = (atMs: number): string => speech.clockToTheSecond(atMs);

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
