import type { LedgerWords } from '@porch/words/ledger/shape';
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

/** An act for which this participant has the desk's leave; undefined while they have not. */
export function clearedAct(
  slice: RiskyActsSlice,
  { actId, act, byId }: { readonly actId: string; readonly act: string; readonly byId: string },
): RiskyAct | undefined {
  const asked = slice[actId];
  return asked?.standing === 'cleared' && asked.act === act && asked.byId === byId ? asked : undefined;
}

/** What an act does, in words; an act that only a later release knows is its name. */
export function riskyActInWords(
  act: string,
  name: string,
  { riskyActs: { does } }: Pick<LedgerWords, 'riskyActs'>,
): string {
  return Object.hasOwn(does, act) ? does[act as keyof typeof does]({ name }) : name;
}
interface Told {
  readonly actId: string;
  readonly act?: string;
  readonly personal?: { readonly name: string } | undefined;
}
const whatOf = (e: Told, words: LedgerWords['riskyActs'], s: RiskyActsSlice): string =>
  riskyActInWords(e.act ?? s[e.actId]?.act ?? '', e.personal?.name ?? '…', { riskyActs: words });

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
      technician: (e, { words, nameOf }, s) =>
        words.technician[e.isOverride ? 'override' : e.needsSecond ? 'waits' : 'asked']({
          ...{ who: nameOf(e.by), name: whatOf(e, words, s), reason: e.personal?.reason ?? '…' },
        }),
      customer: (e, { words, technician }, s) =>
        words.customer[e.needsSecond ? 'waits' : 'asked']({ who: technician(e.by), name: whatOf(e, words, s) }),
    },
    'risky-acts/answered': {
      technician: (e, { words }, s) =>
        words.technician[e.isYes ? 'yes' : 'no']({ who: e.personal?.secondName ?? '…', name: whatOf(e, words, s) }),
      customer: (e, { words }, s) =>
        words.customer[e.isYes ? 'yes' : 'no']({ who: e.personal?.secondName ?? '…', name: whatOf(e, words, s) }),
    },
    'risky-acts/lookedAt': {
      technician: (e, { words }, s) =>
        words.technician.lookedAt({ who: e.personal?.leadName ?? '…', name: whatOf(e, words, s) }),
      customer: (e, { words }, s) =>
        words.customer.lookedAt({ who: e.personal?.leadName ?? '…', name: whatOf(e, words, s) }),
    },
  },
  inStory: ['risky-acts/asked', 'risky-acts/answered'],
});
