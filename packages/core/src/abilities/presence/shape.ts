import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact } from '../../ability/fields.ts';

export interface PresenceSlice {
  /** Those of the customer's programs at which they said that they do something private. */
  readonly privateAt: readonly string[];
  readonly isAway: boolean;
  /** Another desktop of the computer, or its sign-in screen, is in front of theirs. */
  readonly isBehind: boolean;
}

/** Whether somebody is at the computer, and whether what they do there is for nobody else. */
export const presence = defineShape({
  name: 'presence',
  version: 1,
  permissions: {
    'work-alone': {
      needs: 'control-input',
      isSensitive: true,
      // Nobody is left alone with somebody's computer for longer on one yes.
      longestMs: 60 * 60_000,
    },
  },
  events: {
    /** The customer types something private: picture and input pause until they say that it is over. */
    privateMoment: { isOn: z.boolean(), fact },
    /** Nobody has been at the computer for a while, or somebody is again. */
    customerAway: { isAway: z.boolean(), fact },
    /** Somebody switched to another desktop of the computer, or back to this one. */
    'presence/switched': { isBehind: z.boolean(), fact },
  },
  sinceOf: { 'presence/switched': 4 },
  initial: { privateAt: [], isAway: false, isBehind: false } as PresenceSlice,
  evolve: {
    privateMoment: (s, e, { participants }) => ({
      ...s,
      // Whoever sits at the computer itself says when it is over, wherever it began.
      privateAt: e.isOn
        ? [...s.privateAt.filter((at) => at !== e.by), e.by]
        : s.privateAt.filter((at) => at !== e.by && participants[e.by]?.part !== 'doorstep'),
    }),
    customerAway: (s, e) => ({ ...s, isAway: e.isAway }),
    'presence/switched': (s, e) => ({ ...s, isBehind: e.isBehind }),
  },
  // Who is gone does nothing private any longer, and is not away: they are gone.
  left: (s, participantId, wasHolder) => ({
    privateAt: s.privateAt.filter((at) => at !== participantId),
    isAway: wasHolder ? false : s.isAway,
    isBehind: wasHolder ? false : s.isBehind,
  }),
  words: (book) => book.presence,
  tell: {
    privateMoment: {
      technician: (e, { words, nameOf }) =>
        e.isOn ? words.technician.privateOn({ who: nameOf(e.by) }) : words.technician.privateOff,
      customer: (e, { words }) => words.customer[e.isOn ? 'privateOn' : 'privateOff'],
    },
    customerAway: {
      technician: (e, { words }) => words.technician[e.isAway ? 'away' : 'back'],
      customer: (e, { words }) => words.customer[e.isAway ? 'away' : 'back'],
    },
    'presence/switched': {
      technician: (e, { words }) => words.technician[e.isBehind ? 'behind' : 'inFront'],
      customer: (e, { words }) => words.customer[e.isBehind ? 'behind' : 'inFront'],
    },
  },
  inStory: [],
});
