import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';

/** What programs on the customer's computer play, heard by technicians. Kept by nobody; the ledger says that it was heard. */
export const sound = defineShape({
  name: 'sound',
  version: 1,
  since: 4,
  permissions: {
    'hear-sound': { shortName: 'hear', needs: 'view-screen' },
  },
  events: {
    /** This participant began to listen, for the first time since they may. */
    'sound/heard': { participantId: id, fact },
  },
  initial: {},
  evolve: {},
  words: (book) => book.sound,
  tell: {
    'sound/heard': {
      technician: (e, { words, nameOf }) => words.technician.heard({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician }) => words.customer.heard({ who: technician(e.participantId) }),
    },
  },
  inStory: [],
});
