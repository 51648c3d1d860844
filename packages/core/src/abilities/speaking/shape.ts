import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';

/** Both sides' microphones. Kept by nobody; the ledger says whose was opened. */
export const speaking = defineShape({
  name: 'speaking',
  version: 1,
  since: 4,
  permissions: {
    'speak-together': { shortName: 'speak', worksInBrowser: true },
  },
  events: {
    /** Somebody's microphone was opened, for the first time since they may. */
    'speaking/opened': { participantId: id, fact },
  },
  initial: {},
  evolve: {},
  words: (book) => book.speaking,
  tell: {
    'speaking/opened': {
      technician: (e, { words, nameOf }) => words.technician.opened({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician, isCustomers }) =>
        isCustomers(e.participantId)
          ? words.customer.youOpened
          : words.customer.opened({ who: technician(e.participantId) }),
    },
  },
  inStory: [],
});
