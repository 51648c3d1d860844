import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id, sha256 } from '../../ability/fields.ts';
import { german } from './words/de.ts';
import { english } from './words/en.ts';
import { norwegian } from './words/no.ts';

/** Where a screenshot went: to the technician's own disk, to the records of the session, or to the customer. */
export const ScreenshotPlace = z.enum(['technician', 'session', 'customer']);
export type ScreenshotPlace = z.infer<typeof ScreenshotPlace>;

export interface Screenshot {
  readonly takenById: string;
  readonly keptAt: readonly ScreenshotPlace[];
}
export type ScreenshotSlice = Readonly<Record<string, Screenshot>>;

const placeWords: Readonly<Record<ScreenshotPlace, string>> = {
  technician: 'kept a screenshot for themselves',
  session: 'kept a screenshot with the session',
  customer: 'gave the customer a screenshot',
};
const placeKeys = { technician: 'keptThemselves', session: 'keptHere', customer: 'keptByYou' } as const;

/** A picture of the display as it is shown, marked and blanked by the technician, and kept somewhere. */
export const screenshot = defineShape({
  name: 'screenshot',
  version: 1,
  since: 2,
  permissions: {
    'take-screenshot': {
      label: 'Take screenshots',
      shortName: 'screenshot',
      needs: 'view-screen',
      undone: 'a screenshot on its way stops',
    },
  },
  events: {
    /** The customer's side sent one out. */
    'screenshot/taken': { screenshotId: id, participantId: id, width: z.int().min(1), height: z.int().min(1), fact },
    /** What was made of it lies somewhere now; its hash says what. */
    'screenshot/kept': { screenshotId: id, place: ScreenshotPlace, sha256, fact },
  },
  initial: {} as ScreenshotSlice,
  evolve: {
    'screenshot/taken': (s, e): ScreenshotSlice => ({
      [e.screenshotId]: { takenById: e.participantId, keptAt: [] },
      ...s,
    }),
    'screenshot/kept': (s, e) => {
      const known = s[e.screenshotId];
      return known ? { ...s, [e.screenshotId]: { ...known, keptAt: [...known.keptAt, e.place] } } : s;
    },
  },
  tell: {
    'screenshot/taken': {
      technician: (e, { nameOf }) => `${nameOf(e.participantId)} took a screenshot (${e.width}×${e.height})`,
      customer: (e, { technician }) => ['taken', { who: technician(e.participantId) }],
    },
    'screenshot/kept': {
      technician: (e, { nameOf }, s) =>
        `${nameOf(s[e.screenshotId]?.takenById ?? e.by)} ${placeWords[e.place]} (SHA-256 ${e.sha256.slice(0, 12)}…)`,
      customer: (e, { technician }, s) => [
        placeKeys[e.place],
        { who: technician(s[e.screenshotId]?.takenById ?? e.by) },
      ],
    },
  },
  words: { en: english, no: norwegian, de: german },
  inStory: ['screenshot/kept'],
});
