import type { LedgerWords } from '@porch/words/ledger/shape';
import type { SessionState } from './session-state.ts';

/** What ledgers say of a session for as long as nobody said what it is for. */
export const NO_PURPOSE = 'Help with a computer';

/**
 * What a session is for, as the customer reads it: in their own words where they said it, and where nobody said anything in
 * their language. A ticket's title stays as the ticket system has it.
 */
export const purposeForCustomer = (
  state: Pick<SessionState, 'purpose' | 'customerPurpose'>,
  { kernel }: LedgerWords,
): string => {
  const said = state.customerPurpose ?? state.purpose ?? '';
  return said && said !== NO_PURPOSE ? said : kernel.noPurpose;
};

/** What a session is for, as technicians read it. */
export const purposeInWords = (purpose: string, { kernel }: LedgerWords): string =>
  purpose === NO_PURPOSE ? kernel.noPurpose : purpose;
