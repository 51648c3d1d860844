import { refuse } from '../../decision.ts';
import type { Deciders } from '../decider.ts';
import { isOver } from '../state.ts';
import type { handoverCommands } from './commands.ts';
import { closeHandover } from './handing-over.ts';

export const handoverDeciders = {
  requestHandover: (s, c, me, x) => {
    if (s.leadId !== me.id) return refuse('NOT_THE_LEAD');
    if (s.phase.name !== 'live') return refuse(isOver(s) ? 'SESSION_ENDED' : 'ACCEPTANCE_MISSING');
    if (s.handover) return refuse('HANDOVER_OPEN');
    const texts = x.handoverTexts(c.toTechnicianId, c.remark);
    if (!texts || c.toTechnicianId === me.technicianId) return refuse('NOT_PRESENT');
    return [
      {
        type: 'handoverRequested',
        by: me.id,
        handoverId: c.handoverId,
        toTechnicianId: c.toTechnicianId,
        answerByMs: x.nowMs + x.policy.handoverAnswerMs,
        personal: texts,
      },
    ];
  },
  takeBackHandover: (s, c, me) => {
    if (s.handover?.id !== c.handoverId) return [];
    if (s.leadId !== me.id) return refuse('NOT_THE_LEAD');
    return closeHandover(s, me.id, 'taken-back');
  },
} satisfies Deciders<typeof handoverCommands>;
