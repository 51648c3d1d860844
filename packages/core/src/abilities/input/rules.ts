import { defineRules } from '../../ability/ability-rules.ts';
import { count, fact, id, shortText } from '../../ability/fields.ts';
import { refuse } from '../../decision.ts';
import { input } from './shape.ts';

export const inputRules = defineRules(input, {
  commands: {
    startControl: { participantId: id, fact },
    stopControl: { participantId: id, why: shortText, clicks: count, keys: count, fact },
  },
  actions: { startControl: 'speak for the computer', stopControl: 'speak for the computer' },
  decide: {
    startControl: (_slice, c, me, view) => {
      if (view.holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
      if (view.isOver) return { noted: 'control had started' };
      return [{ type: 'controlStarted', by: me.id, participantId: c.participantId, fact: c.fact }];
    },
    stopControl: (_slice, c, me) => {
      const { participantId, why, clicks, keys } = c;
      return [{ type: 'controlStopped', by: me.id, participantId, why, clicks, keys, fact: c.fact }];
    },
  },
  givesBack: { startControl: () => true },
});
