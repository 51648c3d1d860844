import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';

/** What of their own a technician shows. */
export const OwnSurface = z.enum(['screen', 'window', 'tab', 'picture']);
export type OwnSurface = z.infer<typeof OwnSurface>;

export interface OwnScreenSlice {
  /** Who shows what just now; one at a time, whoever began last. */
  readonly shown?: { readonly showingId: string; readonly byId: string; readonly what: OwnSurface } | undefined;
}

const nothing: OwnScreenSlice = {};
const without = (slice: OwnScreenSlice, showingId: string): OwnScreenSlice =>
  slice.shown?.showingId === showingId ? nothing : slice;

/** A technician's own screen, at the customer's side: the picture goes the other way, kept by nobody. */
export const ownScreen = defineShape({
  name: 'own-screen',
  version: 1,
  since: 4,
  permissions: {
    'show-own-screen': { shortName: 'show', worksInBrowser: true, showsOwnPicture: true },
  },
  events: {
    'own-screen/begun': { showingId: id, what: OwnSurface },
    /** Whoever showed it stopped. */
    'own-screen/ended': { showingId: id },
    /** The person at the customer's side closed it, and does not want to see it. */
    'own-screen/closed': { showingId: id, fact },
  },
  initial: nothing,
  evolve: {
    'own-screen/begun': (_slice, { showingId, what, by }) => ({ shown: { showingId, byId: by, what } }),
    'own-screen/ended': (slice, { showingId }) => without(slice, showingId),
    'own-screen/closed': (slice, { showingId }) => without(slice, showingId),
  },
  fell: (slice, permission, participantId) =>
    permission === 'show-own-screen' && slice.shown?.byId === participantId ? nothing : slice,
  left: (slice, participantId) => (slice.shown?.byId === participantId ? nothing : slice),
  ended: () => nothing,
  words: (book) => book.ownScreen,
  tell: {
    'own-screen/begun': {
      technician: (e, { words, nameOf }) => words.technician.begun[e.what]({ who: nameOf(e.by) }),
      customer: (e, { words, technician }) => words.customer.begun[e.what]({ who: technician(e.by) }),
    },
    'own-screen/ended': {
      technician: (e, { words, nameOf }) => words.technician.ended({ who: nameOf(e.by) }),
      customer: (e, { words, technician }) => words.customer.ended({ who: technician(e.by) }),
    },
    'own-screen/closed': {
      technician: (e, { words, nameOf }) => words.technician.closed({ who: nameOf(e.by) }),
      customer: (_e, { words }) => words.customer.closed,
    },
  },
  inStory: ['own-screen/begun'],
});
