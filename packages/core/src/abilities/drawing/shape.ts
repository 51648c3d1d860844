import { defineShape } from '../../ability/ability-shape.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

/** Pointing at the picture and drawing on it: seen by both sides, kept by nobody. */
export const drawing = defineShape({
  name: 'drawing',
  version: 1,
  permissions: {
    'draw-on-screen': {
      label: 'Point and draw',
      needs: 'view-screen',
      worksInBrowser: true,
      undone: 'what was drawn goes',
    },
  },
  events: {},
  initial: {},
  evolve: {},
  tell: {},
  words: { en: english, no: norwegian, de: german },
  inStory: [],
});
