import { defineShape } from '../../ability/ability-shape.ts';
import { count, fact, id, shortText } from '../../ability/fields.ts';

/** The customer's mouse and keyboard, used by a technician. */
export const input = defineShape({
  name: 'input',
  version: 1,
  permissions: {
    'control-input': {
      shortName: 'work',
      needs: 'view-screen',
      isUsual: true,
      canStand: true,
      isHandsOn: true,
      wasInFirstRelease: true,
    },
  },
  events: {
    controlStarted: { participantId: id, fact },
    controlStopped: { participantId: id, why: shortText, clicks: count, keys: count, fact },
  },
  initial: {},
  evolve: {},
  words: (book) => book.input,
  tell: {
    controlStarted: {
      technician: (e, { words, nameOf }) => words.technician.controlStarted({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician }) => words.customer.controlStarted({ who: technician(e.participantId) }),
    },
    controlStopped: {
      technician: ({ participantId, why, clicks, keys }, { words, nameOf, reason }) =>
        words.technician.controlStopped({ who: nameOf(participantId), why: reason(why), clicks, keys }),
      customer: ({ participantId, clicks, keys }, { words, technician }) =>
        words.customer.controlStopped({ who: technician(participantId), clicks, keys }),
    },
  },
  inStory: ['controlStopped'],
});
