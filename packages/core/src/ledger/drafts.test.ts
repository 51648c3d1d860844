import { ledger } from '@porch/words/ledger';
import { expect, it } from 'vitest';
import { MAX_NOTE_CHARACTERS } from '../kernel/ending/commands.ts';
import { draftNote, MAX_DRAFT_CHARACTERS } from './drafts.ts';
import type { LedgerEntry } from './entry.ts';

const reader = { book: ledger.en, timeZone: 'Europe/Oslo' };
const id = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
/** Somebody opens one command line after the other. */
const opened = (count: number, folder: string) =>
  Array.from({ length: count }, (_, n) => ({
    ...{ seq: n, atMs: n * 60_000 },
    event: {
      type: 'command-line/opened',
      by: 'd',
      lineId: id(n),
      participantId: 'pim',
      personal: { program: 'sh', folder },
    },
  })) as unknown as LedgerEntry[];

it('a note is drafted with room for what is added, however long the session was: the last lines, and how many are not there', () => {
  const short = draftNote(opened(3, 'Documents'), reader);
  expect(short.split('\n').filter((line) => line.includes('Documents'))).toHaveLength(3);
  expect(short).not.toContain('left out');
  const long = draftNote(opened(300, 'Documents/labels'), reader);
  expect(long.length).toBeLessThan(MAX_NOTE_CHARACTERS - 1_000);
  expect(long.length).toBeGreaterThan(MAX_DRAFT_CHARACTERS - 200);
  const shown = long.split('\n').filter((line) => line.includes('Documents/labels'));
  expect(long).toContain(`(${300 - shown.length} earlier lines are left out here; they are in the ledger.)`);
  // The last of them is there.
  expect(shown.at(-1)).toMatch(/^05:59 /);
});
