import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { sound } from './shape.ts';

export const soundRules = defineRules(sound, {
  commands: {
    /** The customer's side says that somebody listens. */
    'sound/tellHeard': { participantId: id, fact },
  },
  actions: { 'sound/tellHeard': 'speak for the computer' },
  decide: {
    'sound/tellHeard': (_slice, { participantId, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'somebody had listened' };
      return [{ type: 'sound/heard', by: me.id, participantId, fact: number }];
    },
  },
});
