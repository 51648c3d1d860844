import { isAbilityEvent, tellAbilityToTechnicians } from '../abilities/index.ts';
import { tellKernelToTechnicians } from '../kernel/told-to-technicians.ts';
import type { SessionEvent } from '../session/session-events.ts';
import type { SessionState } from '../session/session-state.ts';
import type { LedgerEntry } from './entry.ts';
import { tellEach, tellingIn, type ToldEntry } from './replay.ts';

/** One sentence for technicians, told with what was true when it happened. */
const sentenceFor = (event: SessionEvent, stateBefore: SessionState): string =>
  isAbilityEvent(event)
    ? tellAbilityToTechnicians(event, tellingIn(stateBefore, 'en'), stateBefore.slices)
    : tellKernelToTechnicians(event, stateBefore);

/** The whole ledger in the trade's words. */
export const tellToTechnicians = (entries: readonly LedgerEntry[]): ToldEntry[] => tellEach(entries, sentenceFor);
