import type { LedgerWords } from '@porch/words/ledger/shape';
import { isAbilityEvent, tellAbility } from '../abilities/index.ts';
import { tellKernelToTechnicians } from '../kernel/told-to-technicians.ts';
import type { SessionEvent } from '../session/session-events.ts';
import type { SessionState } from '../session/session-state.ts';
import type { LedgerEntry } from './entry.ts';
import { tellEach, tellingIn, type ToldEntry } from './replay.ts';

/** One sentence for technicians, told with what was true when it happened. */
export function sentenceForTechnicians(event: SessionEvent, stateBefore: SessionState, book: LedgerWords): string {
  const telling = tellingIn(stateBefore, book);
  return isAbilityEvent(event)
    ? tellAbility('technician', event, telling, stateBefore.slices, book)
    : tellKernelToTechnicians(event, telling, stateBefore, book);
}

/** The whole ledger in the trade's words. */
export const tellToTechnicians = (entries: readonly LedgerEntry[], book: LedgerWords): ToldEntry[] =>
  tellEach(entries, sentenceForTechnicians, book);
