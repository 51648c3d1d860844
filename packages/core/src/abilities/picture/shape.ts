import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import type { Language } from '../../language.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

/** What a customer's page shows. */
export const PageSource = z.enum(['browser', 'window', 'monitor', 'camera', 'other']);
export type PageSource = z.infer<typeof PageSource>;

const sources: Readonly<Record<PageSource, string>> = {
  browser: 'a tab of the browser',
  window: 'a window',
  monitor: 'the whole screen',
  camera: 'what the camera sees',
  other: 'something from the browser',
};
const customerSources: Readonly<Record<Language, Readonly<Record<PageSource, string>>>> = {
  en: {
    browser: 'a tab of your browser',
    window: 'a window',
    monitor: 'your whole screen',
    camera: 'what your camera sees',
    other: 'something from your browser',
  },
  no: {
    browser: 'en fane i nettleseren',
    window: 'et vindu',
    monitor: 'hele skjermen din',
    camera: 'det kameraet ditt ser',
    other: 'noe fra nettleseren',
  },
  de: {
    browser: 'einen Tab Ihres Browsers',
    window: 'ein Fenster',
    monitor: 'Ihren ganzen Bildschirm',
    camera: 'was Ihre Kamera sieht',
    other: 'etwas aus Ihrem Browser',
  },
};

/** The customer's screen, or what their page shows, seen by technicians. */
export const picture = defineShape({
  name: 'picture',
  version: 1,
  permissions: {
    'view-screen': {
      label: 'See the screen',
      shortName: 'see',
      worksInBrowser: true,
      isUsual: true,
      canStand: true,
      isLookingOnly: true,
      showsPicture: true,
      wasInFirstRelease: true,
      undone: 'the picture stops, and a new key keeps out whoever had it',
    },
  },
  events: {
    /** What the page shows from now on. */
    sourceChosen: { what: PageSource },
  },
  initial: {},
  evolve: {},
  tell: {
    sourceChosen: {
      technician: (e, { nameOf }) => `${nameOf(e.by)} shows ${sources[e.what]}`,
      customer: (e, { language }) => ['shows', { what: customerSources[language][e.what] }],
    },
  },
  words: { en: english, no: norwegian, de: german },
  inStory: [],
});
