import { z } from 'zod';
import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id, shortText } from '../../ability/fields.ts';
import { refuse } from '../../decision.ts';
import { isSameLabel } from '../../device/device-label.ts';
import { handsOff, Resting, restingBy } from './shape.ts';

export interface HandsOffPolicy {
  /** Devices with one of these labels are never taken out of the hands of whoever works there, and never covered. */
  readonly neverRestingLabels: readonly string[];
}

export const handsOffRules = defineRules(handsOff, {
  commands: {
    /** The program at the computer says that it is in force, or not any longer. */
    'hands-off/tellBegun': { participantId: id, what: Resting, fact },
    'hands-off/tellEnded': { participantId: id, what: Resting, why: shortText, fact },
    'hands-off/askStepBack': { isAsked: z.boolean() },
  },
  actions: {
    'hands-off/tellBegun': 'speak for the computer',
    'hands-off/tellEnded': 'speak for the computer',
    'hands-off/askStepBack': 'ask for a permission',
  },
  decide: {
    'hands-off/tellBegun': (_slice, { participantId, what, fact: number }, me, view) => {
      if (view.isOver || view.holderId !== me.id) return { noted: 'mouse, keyboard or screen had rested' };
      return [{ type: 'hands-off/begun', by: me.id, participantId, what, fact: number }];
    },
    'hands-off/tellEnded': (_slice, { participantId, what, why, fact: number }, me) => [
      { type: 'hands-off/ended', by: me.id, participantId, what, why, fact: number },
    ],
    'hands-off/askStepBack': ({ stepBackFor }, { isAsked }, me, view) => {
      if (view.isOver) return refuse('SESSION_ENDED');
      if (isAsked === (stepBackFor === me.id)) return [];
      // Whoever may not work there has no hands in the way.
      const { needs } = handsOff.permissions['block-input'];
      if (isAsked && !view.holds(needs, me.id)) return refuse('NOT_GRANTED');
      return [{ type: 'hands-off/stepBack', by: me.id, isAsked }];
    },
  },
  givesBack: { 'hands-off/tellBegun': () => true },
  holdsBack: ({ deviceLabel }, _slice, { permission }, policy: HandsOffPolicy) =>
    permission in restingBy &&
    deviceLabel !== undefined &&
    policy.neverRestingLabels.some((label) => isSameLabel(label, deviceLabel))
      ? 'LABEL_FORBIDS'
      : undefined,
});
