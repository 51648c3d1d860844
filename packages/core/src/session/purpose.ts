import type { Language } from '../language.ts';
import type { SessionState } from './session-state.ts';

/** What a session is for as long as nobody said more. */
export const noPurpose: Readonly<Record<Language, string>> = {
  en: 'Help with a computer',
  no: 'Hjelp med en datamaskin',
  de: 'Hilfe mit einem Computer',
};

/**
 * What a session is for, as the customer reads it: in their own words where they said it, and where nobody said anything in
 * their language. A ticket's title stays as the ticket system has it.
 */
export const purposeForCustomer = (
  state: Pick<SessionState, 'purpose' | 'customerPurpose'>,
  language: Language,
): string => {
  const said = state.customerPurpose ?? state.purpose ?? '';
  return said && said !== noPurpose.en ? said : noPurpose[language];
};
