import { speechOf } from '@porch/words';
import type { LedgerWords } from '@porch/words/ledger/shape';
import type { Telling } from '../ability/ability-shape.ts';
import { personName } from '../kernel/state.ts';
import { evolveSession } from '../session/evolve.ts';
import type { SessionEvent } from '../session/session-events.ts';
import { newSession, type SessionState } from '../session/session-state.ts';
import type { LedgerEntry } from './entry.ts';

export interface ToldEntry extends LedgerEntry {
  readonly sentence: string;
  readonly who: string;
}

export const replay = (entries: readonly LedgerEntry[]): SessionState =>
  entries.reduce((s, e) => evolveSession(s, e.event, e.atMs), newSession);

/** Every entry in order, each told with what was true before it. */
export function tellEach(
  entries: readonly LedgerEntry[],
  tell: (event: SessionEvent, stateBefore: SessionState, book: LedgerWords) => string,
  book: LedgerWords,
): ToldEntry[] {
  let state = newSession;
  return entries.map((entry) => {
    const sentence = tell(entry.event, state, book);
    state = evolveSession(state, entry.event, entry.atMs);
    // A newcomer is known only after the event that brings them.
    return { ...entry, sentence, who: personName(state, entry.event.by, book) };
  });
}

export function tellingIn(s: SessionState, book: LedgerWords): Omit<Telling, 'words'> {
  const reasons: Readonly<Record<string, string>> = book.kernel.reasons;
  return {
    speech: speechOf(book.language),
    nameOf: (id) => personName(s, id, book),
    technician: (id) =>
      id.startsWith('technician:') || id === 'service'
        ? (s.technicianName ?? '…')
        : (s.participants[id]?.name ?? s.technicianName ?? '…'),
    isCustomers: (id) => s.participants[id]?.side === 'customer',
    reason: (why) => (Object.hasOwn(reasons, why) ? (reasons[why] ?? why) : why),
  };
}
