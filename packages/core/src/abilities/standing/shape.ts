import { defineShape } from '../../ability/ability-shape.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

/** A standing consent: the desk may come back to this computer. */
export const standing = defineShape({
  name: 'standing',
  version: 1,
  permissions: {
    'keep-device': {
      label: 'Connect to this computer later',
      shortName: 'keep',
      isSensitive: true,
      isForComingBack: true,
      undone: 'the standing consent and all that belongs to it are gone from the computer',
    },
  },
  events: {},
  initial: {},
  evolve: {},
  tell: {},
  words: { en: english, no: norwegian, de: german },
  inStory: [],
});
