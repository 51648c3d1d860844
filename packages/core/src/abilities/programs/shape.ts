import { z } from 'zod';
import { defineShape } from '../../ability/ability-shape.ts';
import { fact, id } from '../../ability/fields.ts';
import { ProgramAct, ProgramOutcome, programListNames, type ProgramList } from './lists.ts';

export interface BegunAct {
  readonly act: ProgramAct;
  readonly byId: string;
  /** Missing once erased. */
  readonly name: string | undefined;
  /** Missing: nobody said yet. */
  readonly outcome: ProgramOutcome | undefined;
}
export interface ProgramsSlice {
  /** Which lists each technician looked at. */
  readonly looked: Readonly<Record<string, readonly ProgramList[]>>;
  readonly acts: Readonly<Record<string, BegunAct>>;
}
const nameOfAct = (s: ProgramsSlice, actId: string) => s.acts[actId]?.name ?? '…';

/** What runs on a computer: looked at in lists, ended, stopped and started. */
export const programs = defineShape({
  name: 'programs',
  version: 1,
  since: 4,
  permissions: {
    'inspect-programs': { shortName: 'programs', needs: 'read-system-report', restsInPrivate: true },
    'change-programs': { shortName: 'change', needs: 'inspect-programs', restsInPrivate: true },
  },
  events: {
    /** A technician began to look at a list. */
    'programs/looked': { list: z.enum(programListNames), participantId: id, fact },
    /** The customer's side begins to do something for a technician. */
    'programs/begun': {
      actId: id,
      act: ProgramAct,
      participantId: id,
      fact,
      personal: z.strictObject({ name: z.string().max(120) }).optional(),
    },
    'programs/ended': { actId: id, outcome: ProgramOutcome, fact },
  },
  initial: { looked: {}, acts: {} } as ProgramsSlice,
  evolve: {
    'programs/looked': (s, { list, participantId }): ProgramsSlice => {
      const known = s.looked[participantId] ?? [];
      return known.includes(list) ? s : { ...s, looked: { ...s.looked, [participantId]: [...known, list] } };
    },
    'programs/begun': (s, { actId, act, participantId, personal }): ProgramsSlice => ({
      ...s,
      acts: { [actId]: { act, byId: participantId, name: personal?.name, outcome: undefined }, ...s.acts },
    }),
    'programs/ended': (s, { actId, outcome }): ProgramsSlice => {
      const known = s.acts[actId];
      return known?.outcome === undefined && known ? { ...s, acts: { ...s.acts, [actId]: { ...known, outcome } } } : s;
    },
  },
  words: (book) => book.programs,
  tell: {
    'programs/looked': {
      technician: (e, { words, nameOf }) =>
        words.technician.looked({ who: nameOf(e.participantId), list: words.lists[e.list] }),
      customer: (e, { words, technician }) =>
        words.customer.looked({ who: technician(e.participantId), list: words.lists[e.list] }),
    },
    'programs/begun': {
      technician: (e, { words, nameOf }) =>
        words.begun[e.act]({ who: nameOf(e.participantId), name: e.personal?.name ?? '…' }),
      customer: (e, { words, technician }) =>
        words.begun[e.act]({ who: technician(e.participantId), name: e.personal?.name ?? '…' }),
    },
    'programs/ended': {
      technician: (e, { words }, s) => words.ended[e.outcome]({ name: nameOfAct(s, e.actId) }),
      customer: (e, { words }, s) => words.ended[e.outcome]({ name: nameOfAct(s, e.actId) }),
    },
  },
  inStory: ['programs/begun', 'programs/ended'],
});
