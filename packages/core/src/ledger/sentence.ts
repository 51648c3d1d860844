import {
  abilitySentences,
  isAbilityEvent,
  tellAbilityToCustomer,
  tellAbilityToTechnicians,
} from '../abilities/index.ts';
import type { Telling } from '../ability/ability-shape.ts';
import { kernelSentences, tellKernelToCustomer } from '../kernel/told-to-customers.ts';
import { personName, tellKernelToTechnicians } from '../kernel/told-to-technicians.ts';
import type { Language } from '../language.ts';
import { evolveSession } from '../session/evolve.ts';
import type { SessionEvent } from '../session/session-events.ts';
import { newSession, type SessionState } from '../session/session-state.ts';
import type { LedgerEntry } from './entry.ts';

function tellingIn(s: SessionState, language: Language): Telling {
  return {
    language,
    nameOf: (id) => personName(s, id),
    technician: (id) =>
      id.startsWith('technician:') || id === 'service'
        ? (s.technicianName ?? '…')
        : (s.participants[id]?.name ?? s.technicianName ?? '…'),
    isCustomers: (id) => s.participants[id]?.side === 'customer',
  };
}

/** One sentence for technicians, told with what was true when it happened. */
export const sentenceFor = (event: SessionEvent, stateBefore: SessionState): string =>
  isAbilityEvent(event)
    ? tellAbilityToTechnicians(event, tellingIn(stateBefore, 'en'), stateBefore.slices)
    : tellKernelToTechnicians(event, stateBefore);

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

export interface ToldEntry extends LedgerEntry {
  readonly sentence: string;
  readonly who: string;
}

/** The whole ledger told in order: in the trade's words, or in the customer's own language. */
export function tellLedger(entries: readonly LedgerEntry[], to: 'technician' | Language): ToldEntry[] {
  let state = newSession;
  return entries.map((entry) => {
    const before = state;
    state = evolveSession(state, entry.event, entry.atMs);
    const sentence =
      to === 'technician' ? sentenceFor(entry.event, before) : sentenceForCustomer(entry.event, before, to);
    // A newcomer is known only after the event that brings them.
    return { ...entry, sentence, who: personName(state, entry.event.by) };
  });
}

export const replay = (entries: readonly LedgerEntry[]): SessionState =>
  entries.reduce((s, e) => evolveSession(s, e.event, e.atMs), newSession);
