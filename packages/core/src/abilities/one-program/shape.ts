import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact } from '../../ability/fields.ts';

/**
 * What of the customer's computer is shown at most: all that they do not hide, the windows of one program, or nothing,
 * because that program was closed.
 */
export const ShownPart = z.enum(['everything', 'program', 'nothing']);
export type ShownPart = z.infer<typeof ShownPart>;

export interface OneProgramSlice {
  readonly shows: ShownPart;
}
const everything: OneProgramSlice = { shows: 'everything' };

/** One program only: chosen by the customer at their computer. Which one it is stays there. */
export const oneProgram = defineShape({
  name: 'one-program',
  version: 1,
  since: 4,
  permissions: {},
  events: {
    'one-program/shown': { shows: ShownPart, fact },
  },
  initial: everything,
  evolve: {
    'one-program/shown': (_slice, { shows }) => ({ shows }),
  },
  left: (slice, _participantId, wasHolder) => (wasHolder ? everything : slice),
  ended: () => everything,
  words: (book) => book.oneProgram,
  tell: {
    'one-program/shown': {
      technician: (e, { words, nameOf }) => words.technician[e.shows]({ who: nameOf(e.by) }),
      customer: (e, { words }) => words.customer[e.shows],
    },
  },
  inStory: [],
});
