import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { count, fact, id } from '../../ability/fields.ts';
import { safePoints } from './shape.ts';

const name = z.string().max(80);
const noted = { noted: 'a safe point had been made or used' } as const;

export interface SafePointsPolicy {
  /** The most that one safe point may hold. */
  readonly maxSafePointBytes: number;
}

/** All of them are facts of the customer's side: it keeps the points, and says what became of each. */
export const safePointsRules = defineRules(safePoints, {
  commands: {
    'safe-points/tellMade': {
      ...{ pointId: id, participantId: id, name, fact },
      ...{ files: count, sizeBytes: count, services: count, packages: count },
    },
    'safe-points/tellUndone': { pointId: id, participantId: id, name, isWhole: z.boolean(), fact },
    'safe-points/tellKept': { pointId: id, participantId: id, name, untilMs: count, fact },
    'safe-points/tellDropped': { pointId: id, participantId: id, name, fact },
  },
  actions: {
    'safe-points/tellMade': 'speak for the computer',
    'safe-points/tellUndone': 'speak for the computer',
    'safe-points/tellKept': 'speak for the computer',
    'safe-points/tellDropped': 'speak for the computer',
  },
  decide: {
    'safe-points/tellMade': (slice, { type: _type, name: own, ...about }, me, view) => {
      if (view.isOver) return noted;
      if (Object.hasOwn(slice, about.pointId)) return [];
      return [{ type: 'safe-points/made', by: me.id, ...about, personal: { name: own } }];
    },
    'safe-points/tellUndone': (_slice, { type: _type, name: own, ...about }, me, view) =>
      view.isOver ? noted : [{ type: 'safe-points/undone', by: me.id, ...about, personal: { name: own } }],
    'safe-points/tellKept': (_slice, { type: _type, name: own, ...about }, me, view) =>
      view.isOver ? noted : [{ type: 'safe-points/kept', by: me.id, ...about, personal: { name: own } }],
    'safe-points/tellDropped': (_slice, { type: _type, name: own, ...about }, me, view) =>
      view.isOver ? noted : [{ type: 'safe-points/dropped', by: me.id, ...about, personal: { name: own } }],
  },
});
