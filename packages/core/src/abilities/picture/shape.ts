import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';

/** What a customer's page shows. */
export const PageSource = z.enum(['browser', 'window', 'monitor', 'camera', 'other']);
export type PageSource = z.infer<typeof PageSource>;

/** The customer's screen, or what their page shows, seen by technicians. */
export const picture = defineShape({
  name: 'picture',
  version: 1,
  permissions: {
    'view-screen': {
      shortName: 'see',
      worksInBrowser: true,
      isUsual: true,
      canStand: true,
      isLookingOnly: true,
      showsPicture: true,
      wasInFirstRelease: true,
    },
  },
  events: {
    /** What the page shows from now on. */
    sourceChosen: { what: PageSource },
  },
  initial: {},
  evolve: {},
  words: (book) => book.picture,
  tell: {
    sourceChosen: {
      technician: (e, { words, nameOf }) => words.technician.shows({ who: nameOf(e.by), what: e.what }),
      customer: (e, { words }) => words.customer.shows({ what: e.what }),
    },
  },
  inStory: [],
});
