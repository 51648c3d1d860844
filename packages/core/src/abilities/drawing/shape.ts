import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';

/** Pointing and drawing, by both sides: seen by everybody, kept by nobody; the ledger says that it was done. */
export const drawing = defineShape({
  name: 'drawing',
  version: 2,
  since: 3,
  permissions: {
    'draw-on-screen': {
      shortName: 'draw',
      needs: 'view-screen',
      worksInBrowser: true,
    },
  },
  events: {
    /** Somebody's first mark since they may. */
    'drawing/drawn': { participantId: id, fact },
  },
  initial: {},
  evolve: {},
  words: (book) => book.drawing,
  tell: {
    'drawing/drawn': {
      technician: (e, { words, nameOf }) => words.technician.drawn({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician, isCustomers }) =>
        isCustomers(e.participantId)
          ? words.customer.youDrew
          : words.customer.drawn({ who: technician(e.participantId) }),
    },
  },
  inStory: [],
});
