import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { id, shortText } from '../../ability/fields.ts';
import { refuse } from '../../decision.ts';
import { isOutsideHours, ruleOfLabel, type CarefulLabel } from './careful-labels.ts';
import { riskyActs } from './shape.ts';

export interface RiskyActsPolicy {
  readonly carefulLabels: readonly CarefulLabel[];
  /** Kinds of acts to which somebody else always says yes first, on whatever device. */
  readonly actsOfTwo: readonly string[];
  /** Where the desk is: hours are meant there. */
  readonly timeZone: string;
}

export const riskyActsRules = defineRules(riskyActs, {
  commands: {
    /** A technician is about to do something on such a device. */
    'risky-acts/ask': {
      actId: id,
      act: shortText,
      name: z.string().max(120),
      reason: z.string().trim().min(1).max(200).optional(),
    },
  },
  actions: { 'risky-acts/ask': 'ask for a permission' },
  decide: {
    'risky-acts/ask': (slice, { actId, act, name, reason }, me, view, policy: RiskyActsPolicy) => {
      if (view.isOver) return refuse('SESSION_ENDED');
      // Asked twice, because the answer was lost: it is the same question.
      if (Object.hasOwn(slice, actId)) return [];
      const rule = ruleOfLabel(policy.carefulLabels, view.deviceLabel);
      if (rule?.isNever) return refuse('LABEL_FORBIDS');
      const isOverride = rule !== undefined && isOutsideHours(rule, view.nowMs, policy.timeZone);
      if (isOverride && !rule.mayOverride) return refuse('OUTSIDE_HOURS');
      if (isOverride && reason === undefined) return refuse('REASON_NEEDED');
      const personal = { name, ...(isOverride && reason !== undefined ? { reason } : {}) };
      return [
        {
          type: 'risky-acts/asked',
          by: me.id,
          actId,
          act,
          needsSecond: (rule?.needsSecond ?? false) || policy.actsOfTwo.includes(act),
          isOverride,
          personal,
        },
      ];
    },
  },
});
