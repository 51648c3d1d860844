import { defineRules } from '../../ability/ability-rules.ts';
import { fact, id } from '../../ability/fields.ts';
import { systemReport } from './shape.ts';

export const systemReportRules = defineRules(systemReport, {
  commands: {
    /** The customer's side says that it reads one for somebody, as it begins. */
    'system-report/tellRead': { reportId: id, participantId: id, fact },
  },
  actions: { 'system-report/tellRead': 'speak for the computer' },
  decide: {
    'system-report/tellRead': (slice, { reportId, participantId, fact: number }, me, view) => {
      if (view.isOver) return { noted: 'a system report had been read' };
      if (Object.hasOwn(slice, reportId)) return [];
      return [{ type: 'system-report/read', by: me.id, reportId, participantId, fact: number }];
    },
  },
});
