import { defineRules } from '../../ability/ability-rules.ts';
import { count, fact, id, shortText } from '../../ability/fields.ts';
import { refuse } from '../../decision.ts';
import { input } from './shape.ts';

export const inputRules = defineRules(input, {
  commands: {
    startControl: { participantId: id, fact },
    stopControl: { participantId: id, why: shortText, clicks: count, keys: count, fact },
  },
  decide: {
    startControl: (_slice, c, me, view) => {
      if (me.role !== 'doorstep' || view.holderId !== me.id) return refuse('NOT_THE_CONSENT_HOLDER');
      if (view.isOver) return { noted: 'control had started' };
      return [{ type: 'controlStarted', by: me.id, participantId: c.participantId, fact: c.fact }];
    },
    stopControl: (_slice, c, me) => {
      if (me.role !== 'doorstep') return refuse('NOT_THE_CONSENT_HOLDER');
      const { participantId, why, clicks, keys } = c;
      return [{ type: 'controlStopped', by: me.id, participantId, why, clicks, keys, fact: c.fact }];
    },
  },
  givesBack: { startControl: () => true },
});
