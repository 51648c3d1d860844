import { defineShape } from '../../ability/ability-shape.ts';

/** A standing consent: the desk may come back to this computer. */
export const standing = defineShape({
  name: 'standing',
  version: 1,
  permissions: {
    'keep-device': {
      shortName: 'keep',
      isSensitive: true,
      isForComingBack: true,
    },
  },
  events: {},
  initial: {},
  evolve: {},
  words: (book) => book.standing,
  tell: {},
  inStory: [],
});
