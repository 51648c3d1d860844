import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { ProgramAct, programListNames, ProgramOutcome } from './lists.ts';
import { programs } from './shape.ts';

export const programsRules = defineRules(programs, {
  commands: {
    /** The customer's side says that somebody looks at a list, the first time they do. */
    'programs/tellLooked': { list: z.enum(programListNames), participantId: id, fact },
    /** That it begins to do something for somebody. */
    'programs/tellBegun': { actId: id, act: ProgramAct, name: z.string().max(120), participantId: id, fact },
    /** What became of it. */
    'programs/tellEnded': { actId: id, outcome: ProgramOutcome, fact },
  },
  actions: {
    'programs/tellLooked': 'speak for the computer',
    'programs/tellBegun': 'speak for the computer',
    'programs/tellEnded': 'speak for the computer',
  },
  decide: {
    'programs/tellLooked': (slice, { list, participantId, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'what runs had been looked at' };
      if (slice.looked[participantId]?.includes(list)) return [];
      return [{ type: 'programs/looked', by: me.id, list, participantId, fact: number }];
    },
    'programs/tellBegun': (slice, { actId, act, name, participantId, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'a program had been ended or started' };
      if (Object.hasOwn(slice.acts, actId)) return [];
      return [{ type: 'programs/begun', by: me.id, actId, act, participantId, fact: number, personal: { name } }];
    },
    'programs/tellEnded': (slice, { actId, outcome, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'a program had been ended or started' };
      if (!Object.hasOwn(slice.acts, actId) || slice.acts[actId]?.outcome !== undefined) return [];
      return [{ type: 'programs/ended', by: me.id, actId, outcome, fact: number }];
    },
  },
});
