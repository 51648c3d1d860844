import { defineShape } from '../../ability/ability-shape.ts';

/** Pointing at the picture and drawing on it: seen by both sides, kept by nobody. */
export const drawing = defineShape({
  name: 'drawing',
  version: 1,
  permissions: {
    'draw-on-screen': {
      needs: 'view-screen',
      worksInBrowser: true,
    },
  },
  events: {},
  initial: {},
  evolve: {},
  words: (book) => book.drawing,
  tell: {},
  inStory: [],
});
