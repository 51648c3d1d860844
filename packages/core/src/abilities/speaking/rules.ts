import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { speaking } from './shape.ts';

export const speakingRules = defineRules(speaking, {
  commands: {
    /** Whoever holds the consent says whose microphone was opened. */
    'speaking/tellOpened': { participantId: id, fact },
  },
  actions: { 'speaking/tellOpened': 'hold the consent' },
  decide: {
    'speaking/tellOpened': (_slice, { participantId, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'a microphone had been opened' };
      return [{ type: 'speaking/opened', by: me.id, participantId, fact: number }];
    },
  },
});
