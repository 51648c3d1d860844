import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { drawing } from './shape.ts';

export const drawingRules = defineRules(drawing, {
  commands: {
    /** Whoever holds the consent says that somebody began to draw. */
    'drawing/tellDrawn': { participantId: id, fact },
  },
  actions: { 'drawing/tellDrawn': 'hold the consent' },
  decide: {
    'drawing/tellDrawn': (_slice, { participantId, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'somebody had drawn' };
      return [{ type: 'drawing/drawn', by: me.id, participantId, fact: number }];
    },
  },
});
