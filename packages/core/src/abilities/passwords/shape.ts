import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact } from '../../ability/fields.ts';

/** What is done about it: its field alone is covered, or the picture rests because nobody is sure where that is. */
export const PasswordCare = z.enum(['covered', 'paused']);
export type PasswordCare = z.infer<typeof PasswordCare>;

export interface PasswordsSlice {
  /** Undefined while nobody types a password, as far as anybody knows. */
  readonly typing: { readonly care: PasswordCare; readonly byId: string; readonly sinceMs: number } | undefined;
}
const nobody: PasswordsSlice = { typing: undefined };

/** A password that the customer types: noticed by the program that holds the consent, where the computer says so. */
export const passwords = defineShape({
  name: 'passwords',
  version: 1,
  since: 4,
  permissions: {},
  events: {
    'passwords/begun': { care: PasswordCare, fact },
    'passwords/ended': { fact },
  },
  initial: nobody,
  evolve: {
    'passwords/begun': (_slice, { care, by }, { nowMs }) => ({
      typing: { care, byId: by, sinceMs: nowMs },
    }),
    'passwords/ended': () => nobody,
  },
  left: (slice, participantId) => (slice.typing?.byId === participantId ? nobody : slice),
  ended: () => nobody,
  words: (book) => book.passwords,
  tell: {
    'passwords/begun': {
      technician: (e, { words, nameOf }) => words.technician[e.care]({ who: nameOf(e.by) }),
      customer: (e, { words }) => words.customer[e.care],
    },
    'passwords/ended': {
      technician: (_e, { words }) => words.technician.over,
      customer: (_e, { words }) => words.customer.over,
    },
  },
  inStory: [],
});
