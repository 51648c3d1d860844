import type { LedgerWords } from '@porch/words/ledger/shape';
import { isAbilityEvent, tellAbility } from '../abilities/index.ts';
import { tellKernelToCustomer } from '../kernel/told-to-customers.ts';
import type { SessionEvent } from '../session/session-events.ts';
import type { SessionState } from '../session/session-state.ts';
import type { LedgerEntry } from './entry.ts';
import { tellEach, tellingIn, type ToldEntry } from './replay.ts';

/** One plain sentence for the customer, in their language, with what was true when it happened. */
export function sentenceForCustomer(event: SessionEvent, stateBefore: SessionState, book: LedgerWords): string {
  const telling = tellingIn(stateBefore, book);
  return isAbilityEvent(event)
    ? tellAbility('customer', event, telling, stateBefore.slices, book)
    : tellKernelToCustomer(event, telling, stateBefore, book);
}

/** The whole ledger in the customer's own language. */
export const tellToCustomer = (entries: readonly LedgerEntry[], book: LedgerWords): ToldEntry[] =>
  tellEach(entries, sentenceForCustomer, book);
