import { defineShape } from '../../ability/ability-shape.ts';

/**
 * What no release does yet. These are in the catalogue so that desks can rule on them today; each moves into the folder of
 * its ability once that is there.
 */
export const toCome = defineShape({
  name: 'to-come',
  version: 1,
  permissions: {
    'record-session': {
      needs: 'view-screen',
      isSensitive: true,
      isNotForMinors: true,
    },
  },
  events: {},
  initial: {},
  evolve: {},
  words: (book) => book.toCome,
  tell: {},
  inStory: [],
});
