import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id, shortText } from '../../ability/fields.ts';
import type { PermissionRules } from '../../permission/permission-rules.ts';

/** What of the customer's rests: their own mouse and keyboard, or what their screen shows them. */
export const Resting = z.enum(['input', 'screen']);
export type Resting = z.infer<typeof Resting>;
export const restingBy = { 'block-input': 'input', 'cover-screen': 'screen' } as const;

export interface HandsOffSlice {
  /** What rests just now, and for which technician. */
  readonly resting: Readonly<Partial<Record<Resting, string>>>;
  /** Who asked that mouse and keyboard be left alone for a moment. */
  readonly stepBackFor: string | undefined;
}

const nothing: HandsOffSlice = { resting: {}, stepBackFor: undefined };
const FIVE_MINUTES_MS = 5 * 60_000;

/** These are the first moves of somebody who means harm, so they stand alone, are short, and are refused where anything is unsure. */
const shortAndAlone = {
  needs: 'control-input',
  isSensitive: true,
  longestMs: FIVE_MINUTES_MS,
  restsInPrivate: true,
  needsConfirmed: true,
  neverWith: ['fetch-files', 'use-command-line'],
} as const satisfies PermissionRules;

const without = (slice: HandsOffSlice, what: Resting, byId: string): HandsOffSlice =>
  slice.resting[what] === byId ? { ...slice, resting: { ...slice.resting, [what]: undefined } } : slice;
const withoutAskOf = (slice: HandsOffSlice, byId: string): HandsOffSlice =>
  slice.stepBackFor === byId ? { ...slice, stepBackFor: undefined } : slice;

/** The customer's own hands and eyes rest for a moment: asked as a favour, or done by the program that holds the consent. */
export const handsOff = defineShape({
  name: 'hands-off',
  version: 1,
  since: 4,
  permissions: {
    'block-input': { ...shortAndAlone, shortName: 'block' },
    'cover-screen': { ...shortAndAlone, shortName: 'cover' },
  },
  events: {
    'hands-off/begun': { participantId: id, what: Resting, fact },
    'hands-off/ended': { participantId: id, what: Resting, why: shortText, fact },
    /** Somebody asks them to leave mouse and keyboard alone, or says that it is over. */
    'hands-off/stepBack': { isAsked: z.boolean() },
  },
  initial: nothing,
  evolve: {
    'hands-off/begun': (slice, { what, participantId }) => ({
      ...slice,
      resting: { ...slice.resting, [what]: participantId },
    }),
    'hands-off/ended': (slice, { what, participantId }) => without(slice, what, participantId),
    'hands-off/stepBack': (slice, { by, isAsked }) =>
      isAsked ? { ...slice, stepBackFor: by } : withoutAskOf(slice, by),
  },
  fell: (slice, permission, participantId) => {
    if (permission === 'control-input') return withoutAskOf(slice, participantId);
    const what = (restingBy as Readonly<Record<string, Resting>>)[permission];
    return what ? without(slice, what, participantId) : slice;
  },
  // Without its holder nothing rests at any computer.
  left: (slice, participantId, wasHolder) =>
    wasHolder
      ? nothing
      : withoutAskOf(without(without(slice, 'input', participantId), 'screen', participantId), participantId),
  ended: () => nothing,
  words: (book) => book.handsOff,
  tell: {
    'hands-off/begun': {
      technician: (e, { words, nameOf }) => words.technician.begun[e.what]({ who: nameOf(e.participantId) }),
      customer: (e, { words, technician }) => words.customer.begun[e.what]({ who: technician(e.participantId) }),
    },
    'hands-off/ended': {
      technician: (e, { words, reason }) => words.technician.ended[e.what]({ why: reason(e.why) }),
      customer: (e, { words }) => words.customer.ended[e.what],
    },
    'hands-off/stepBack': {
      technician: (e, { words, nameOf }) =>
        words.technician[e.isAsked ? 'stepBackAsked' : 'stepBackOver']({ who: nameOf(e.by) }),
      customer: (e, { words, technician }) =>
        words.customer[e.isAsked ? 'stepBackAsked' : 'stepBackOver']({ who: technician(e.by) }),
    },
  },
  inStory: ['hands-off/begun'],
});
