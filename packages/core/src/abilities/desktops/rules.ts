import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { desktops, MAX_ACCOUNT_CHARACTERS, mayNotCome, NotCome } from './shape.ts';

const NOTED = 'somebody at another desktop was asked in';

export const desktopsRules = defineRules(desktops, {
  commands: {
    /** The customer's side says that somebody looked at who is signed in there, the first time they do. */
    'desktops/tellLooked': { participantId: id, fact },
    /** That it asks somebody at another desktop, and what became of it. */
    'desktops/tellRung': {
      ...{ ringId: id, participantId: id, fact },
      account: z.string().max(MAX_ACCOUNT_CHARACTERS),
    },
    'desktops/tellCame': { ringId: id, fact },
    'desktops/tellNotCome': { ringId: id, why: NotCome, fact },
  },
  actions: {
    'desktops/tellLooked': 'speak for the computer',
    'desktops/tellRung': 'speak for the computer',
    'desktops/tellCame': 'speak for the computer',
    'desktops/tellNotCome': 'speak for the computer',
  },
  decide: {
    'desktops/tellLooked': (slice, { participantId, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'who is signed in had been looked at' };
      if (slice.lookedBy.includes(participantId)) return [];
      return [{ type: 'desktops/looked', by: me.id, participantId, fact: number }];
    },
    'desktops/tellRung': (slice, { ringId, participantId, account, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (Object.hasOwn(slice.rings, ringId)) return [];
      return [{ type: 'desktops/rung', by: me.id, ringId, participantId, fact: number, personal: { account } }];
    },
    'desktops/tellCame': (slice, { ringId, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (slice.rings[ringId]?.standing !== 'rings') return [];
      return [{ type: 'desktops/came', by: me.id, ringId, fact: number }];
    },
    'desktops/tellNotCome': (slice, { ringId, why, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (!mayNotCome(slice.rings[ringId])) return [];
      return [{ type: 'desktops/notCome', by: me.id, ringId, why, fact: number }];
    },
  },
});
