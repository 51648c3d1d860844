import { abilitySentences, isAbilityEvent, tellAbilityToCustomer } from '../abilities/index.ts';
import { kernelSentences, tellKernelToCustomer } from '../kernel/told-to-customers.ts';
import type { Language } from '../language.ts';
import type { SessionEvent } from '../session/session-events.ts';
import type { SessionState } from '../session/session-state.ts';
import type { LedgerEntry } from './entry.ts';
import { tellEach, tellingIn, type ToldEntry } from './replay.ts';

/** One plain sentence for the customer, in their language, with what was true when it happened. */
export function sentenceForCustomer(event: SessionEvent, stateBefore: SessionState, language: Language): string {
  const telling = tellingIn(stateBefore, language);
  const [key, fields = {}] = isAbilityEvent(event)
    ? tellAbilityToCustomer(event, telling, stateBefore.slices)
    : tellKernelToCustomer(event, stateBefore, telling);
  const sentences: Readonly<Record<string, string>> = isAbilityEvent(event)
    ? abilitySentences[language]
    : kernelSentences[language];
  return (sentences[key] ?? '…').replace(/\{(\w+)\}/g, (_, name: string) => String(fields[name] ?? ''));
}

/** The whole ledger in the customer's own language. */
export const tellToCustomer = (entries: readonly LedgerEntry[], language: Language): ToldEntry[] =>
  tellEach(entries, (event, stateBefore) => sentenceForCustomer(event, stateBefore, language));
