import { refuse } from '../../decision.ts';
import type { Deciders } from '../decider.ts';
import { isOver } from '../state.ts';
import type { handoverCommands } from './commands.ts';
import { closeHandover } from './handing-over.ts';

export const handoverDeciders = {
  requestHandover: (s, c, me, x) => {
    if (s.phase.name !== 'live') return refuse(isOver(s) ? 'SESSION_ENDED' : 'ACCEPTANCE_MISSING');
    if (s.handover) return refuse('HANDOVER_OPEN');
    const toName = x.nameOf(c.toTechnicianId);
    if (toName === undefined || c.toTechnicianId === me.technicianId) return refuse('NOT_PRESENT');
    return [
      {
        type: 'handoverRequested',
        by: me.id,
        handoverId: c.handoverId,
        toTechnicianId: c.toTechnicianId,
        answerByMs: x.nowMs + x.policy.handoverAnswerMs,
        personal: { brief: x.brief(c.remark), toName },
      },
    ];
  },
  takeBackHandover: (s, c, me) => {
    if (s.handover?.id !== c.handoverId) return [];
    return closeHandover(s, me.id, 'taken-back');
  },
} satisfies Deciders<typeof handoverCommands>;
