import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { administratorRights, mayFall, MAX_RIGHTS_CHARACTERS, RightsFell, RightsWay } from './shape.ts';

const NOTED = 'administrator rights had been raised';

/** What the desk gives leave for, where there is no administrator to type a password. */
export const leaveForRights = ['never', 'second-person', 'alone'] as const;
export interface AdministratorRightsPolicy {
  /** Rights fall back by themselves after this. */
  readonly rightsMs: number;
  /** Whether the desk gives leave for them by itself, and whether somebody else says yes first. */
  readonly rightsByDesk: (typeof leaveForRights)[number];
}

export const administratorRightsRules = defineRules(administratorRights, {
  commands: {
    /** The customer's side says what became of it. */
    'administrator-rights/tellRaised': {
      ...{ raiseId: id, participantId: id, way: RightsWay, fact },
      minutes: z.int().min(1).max(1_440),
      untilMs: z.int().min(0),
      what: z.string().max(MAX_RIGHTS_CHARACTERS),
    },
    'administrator-rights/tellNotRaised': {
      ...{ raiseId: id, participantId: id, fact },
      why: z.enum(['wrong-password', 'not-typed', 'not-there']),
    },
    'administrator-rights/tellUsed': { raiseId: id, what: z.string().max(MAX_RIGHTS_CHARACTERS), fact },
    'administrator-rights/tellFell': { raiseId: id, why: RightsFell, mayGoOn: z.literal(true).optional(), fact },
  },
  actions: {
    'administrator-rights/tellRaised': 'speak for the computer',
    'administrator-rights/tellNotRaised': 'speak for the computer',
    'administrator-rights/tellUsed': 'speak for the computer',
    'administrator-rights/tellFell': 'speak for the computer',
  },
  decide: {
    'administrator-rights/tellRaised': (
      slice,
      { raiseId, participantId, way, minutes, untilMs, what, fact: number },
      me,
      view,
    ) => {
      if (view.isOver) return { noted: NOTED };
      const known = slice[raiseId]?.standing;
      if (known !== undefined && known !== 'leave') return [];
      return [
        {
          ...{ type: 'administrator-rights/raised', by: me.id, raiseId, participantId },
          ...{ way, minutes, untilMs, fact: number, personal: { what } },
        },
      ];
    },
    'administrator-rights/tellNotRaised': (slice, { raiseId, participantId, why, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      const known = slice[raiseId]?.standing;
      if (known !== undefined && known !== 'leave') return [];
      return [{ type: 'administrator-rights/notRaised', by: me.id, raiseId, participantId, why, fact: number }];
    },
    'administrator-rights/tellUsed': (slice, { raiseId, what, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (slice[raiseId]?.standing !== 'raised') return [];
      return [{ type: 'administrator-rights/used', by: me.id, raiseId, fact: number, personal: { what } }];
    },
    'administrator-rights/tellFell': (slice, { raiseId, why, mayGoOn, fact: number }, me, view) => {
      if (view.isOver) return { noted: NOTED };
      if (!mayFall(slice[raiseId])) return [];
      return [{ type: 'administrator-rights/fell', by: me.id, raiseId, why, mayGoOn, fact: number }];
    },
  },
});
