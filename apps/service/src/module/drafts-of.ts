import type { DraftFor, Policy } from '@porch/core';
import { ledger } from '@porch/words/ledger';

/** What goes into tickets and briefs is in the desk's language, with times of its clock. */
export const draftsOf = ({ deskLanguage, timeZone }: Pick<Policy, 'deskLanguage' | 'timeZone'>): DraftFor => ({
  book: ledger[deskLanguage],
  timeZone,
});
