import { cellOf, type ProgramColumn, type ProgramRow } from '@porch/core';
import type { Speech } from '@porch/words';
import type { ConsoleWords } from '@porch/words/console/shape';
import type { ActedOn, PreparedAct, WatchedList } from './programs.ts';

/* What runs on a computer as people read it: the same cells and sentences in the console, on the command line, and as CSV. */

export type ProgramWords = ConsoleWords['programs'];
export type ProgramSpeech = Pick<Speech, 'number' | 'bytes' | 'dayAndTime' | 'exactlyHere' | 'list'>;

const isIn = <T extends object>(table: T, key: unknown): key is keyof T =>
  typeof key === 'string' && Object.hasOwn(table, key);

const tablesOf = ({
  values,
}: ProgramWords): Readonly<Partial<Record<ProgramColumn, Readonly<Record<string, string>>>>> => values;
/** What a row is said to be in words of the reader's language, so that it is found by them. */
export function saidOfRow(row: ProgramRow, words: ProgramWords): string[] {
  return Object.entries(tablesOf(words)).flatMap(([column, table]) => {
    const value = cellOf(row, column as ProgramColumn);
    return isIn(table, value) ? [table[value] ?? ''] : [];
  });
}

/** One cell of a list; empty where the row says nothing of it. */
export function programCell(
  row: ProgramRow,
  column: ProgramColumn,
  words: ProgramWords,
  speech: ProgramSpeech,
): string {
  const value = cellOf(row, column);
  if (value === undefined) return '';
  if (column === 'cpuPercent') return speech.number(Number(value));
  if (column === 'memoryBytes' || column === 'sizeBytes') return speech.bytes(Number(value));
  if (column === 'atMs') return speech.exactlyHere(Number(value));
  if (column.endsWith('AtMs')) return speech.dayAndTime(Number(value));
  const table = tablesOf(words)[column];
  return table && isIn(table, value) ? (table[value] ?? '') : String(value);
}

/** What an act would hit, in sentences; none where nothing hangs on it. */
export function hitInWords(
  { hanging, hangingCount, wakers }: PreparedAct,
  words: ProgramWords,
  speech: ProgramSpeech,
): string[] {
  const others = hangingCount - hanging.length;
  return [
    ...(hangingCount ? [words.hanging({ names: speech.list(hanging), more: others, count: hangingCount })] : []),
    ...(wakers.length ? [words.wakers({ names: speech.list(wakers) })] : []),
  ];
}

/** What became of an act. What the computer said of it is its own words. */
export const actedInWords = ({ outcome, says }: ActedOn, name: string, words: ProgramWords): string =>
  [words.outcomes[outcome]({ name }), says].filter(Boolean).join(' ');

/** Why a list cannot be had, or how much of it is not shown; nothing when all of it is there. */
export function listInWords(list: WatchedList, words: ProgramWords): string {
  if (list.missing) return words.missing[list.missing];
  const left = list.count - list.rows.size;
  return left > 0 ? words.leftOut({ shown: list.rows.size, all: list.count }) : '';
}
