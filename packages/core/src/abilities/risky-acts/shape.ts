import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { id, shortText } from '../../ability/fields.ts';

export interface RiskyAct {
  /** What kind of act: its ability and its name there. */
  readonly act: string;
  readonly byId: string;
  /** Missing once erased. */
  readonly name: string | undefined;
  /** Outside of the hours for it, with this reason. */
  readonly isOverride: boolean;
  readonly standing: 'waits' | 'cleared' | 'refused';
}
export type RiskyActsSlice = Readonly<Record<string, RiskyAct>>;

const nameOfAct = (e: { readonly personal?: { readonly name: string } | undefined }) => e.personal?.name ?? '…';

/** Acts after which something may no longer work, on devices whose label asks for care. */
export const riskyActs = defineShape({
  name: 'risky-acts',
  version: 1,
  since: 4,
  permissions: {},
  events: {
    'risky-acts/asked': {
      actId: id,
      act: shortText,
      needsSecond: z.boolean(),
      isOverride: z.boolean(),
      personal: z.strictObject({ name: z.string().max(120), reason: z.string().max(200).optional() }).optional(),
    },
    /** Somebody else of the desk, in the session or not, said yes or no. */
    'risky-acts/answered': {
      actId: id,
      isYes: z.boolean(),
      personal: z.strictObject({ name: z.string().max(120), secondName: z.string().max(120) }).optional(),
    },
    /** A lead has looked at one that was done outside of its hours. */
    'risky-acts/lookedAt': {
      actId: id,
      personal: z.strictObject({ name: z.string().max(120), leadName: z.string().max(120) }).optional(),
    },
  },
  initial: {} as RiskyActsSlice,
  evolve: {
    'risky-acts/asked': (s, { actId, act, by, needsSecond, isOverride, personal }): RiskyActsSlice => ({
      [actId]: { act, byId: by, name: personal?.name, isOverride, standing: needsSecond ? 'waits' : 'cleared' },
      ...s,
    }),
    'risky-acts/answered': (s, { actId, isYes }): RiskyActsSlice => {
      const known = s[actId];
      return known?.standing === 'waits' ? { ...s, [actId]: { ...known, standing: isYes ? 'cleared' : 'refused' } } : s;
    },
  },
  words: (book) => book.riskyActs,
  tell: {
    'risky-acts/asked': {
      technician: (e, { words, nameOf }) =>
        words.technician[e.isOverride ? 'override' : e.needsSecond ? 'waits' : 'asked']({
          ...{ who: nameOf(e.by), name: nameOfAct(e), reason: e.personal?.reason ?? '…' },
        }),
      customer: (e, { words, technician }) =>
        words.customer[e.needsSecond ? 'waits' : 'asked']({ who: technician(e.by), name: nameOfAct(e) }),
    },
    'risky-acts/answered': {
      technician: (e, { words }) =>
        words.technician[e.isYes ? 'yes' : 'no']({ who: e.personal?.secondName ?? '…', name: nameOfAct(e) }),
      customer: (e, { words }) =>
        words.customer[e.isYes ? 'yes' : 'no']({ who: e.personal?.secondName ?? '…', name: nameOfAct(e) }),
    },
    'risky-acts/lookedAt': {
      technician: (e, { words }) => words.technician.lookedAt({ who: e.personal?.leadName ?? '…', name: nameOfAct(e) }),
      customer: (e, { words }) => words.customer.lookedAt({ who: e.personal?.leadName ?? '…', name: nameOfAct(e) }),
    },
  },
  inStory: ['risky-acts/asked', 'risky-acts/answered'],
});
