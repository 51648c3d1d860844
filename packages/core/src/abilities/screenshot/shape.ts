import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id, sha256 } from '../../ability/fields.ts';

/** Where a screenshot went: to the technician's own disk, to the records of the session, or to the customer. */
export const ScreenshotPlace = z.enum(['technician', 'session', 'customer']);
export type ScreenshotPlace = z.infer<typeof ScreenshotPlace>;

export interface Screenshot {
  readonly takenById: string;
  readonly keptAt: readonly ScreenshotPlace[];
}
export type ScreenshotSlice = Readonly<Record<string, Screenshot>>;

const placeKeys = { technician: 'keptThemselves', session: 'keptHere', customer: 'keptByYou' } as const;

/** A picture of the display as it is shown, marked and blanked by the technician, and kept somewhere. */
export const screenshot = defineShape({
  name: 'screenshot',
  version: 1,
  since: 2,
  permissions: {
    'take-screenshot': {
      shortName: 'screenshot',
      needs: 'view-screen',
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
  words: (book) => book.screenshot,
  tell: {
    'screenshot/taken': {
      technician: (e, { words, nameOf }) =>
        words.technician.taken({ who: nameOf(e.participantId), width: String(e.width), height: String(e.height) }),
      customer: (e, { words, technician }) => words.customer.taken({ who: technician(e.participantId) }),
    },
    'screenshot/kept': {
      technician: (e, { words, nameOf }, s) =>
        words.technician.kept({
          who: nameOf(s[e.screenshotId]?.takenById ?? e.by),
          place: e.place,
          hash: e.sha256.slice(0, 12),
        }),
      customer: (e, { words, technician }, s) =>
        words.customer[placeKeys[e.place]]({ who: technician(s[e.screenshotId]?.takenById ?? e.by) }),
    },
  },
  inStory: ['screenshot/kept'],
});
