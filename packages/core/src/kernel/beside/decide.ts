import { refuse } from '../../decision.ts';
import type { Deciders } from '../decider.ts';
import type { KernelEvent } from '../events.ts';
import { isOver, isTakingOver, letInAs, presentOf } from '../state.ts';
import type { besideCommands } from './commands.ts';

export const besideDeciders = {
  'beside/letIn': (s, c, me, x) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    const name = x.nameOf(c.technicianId);
    if (name === undefined || c.technicianId === me.technicianId) return refuse('NOT_PRESENT');
    if (letInAs(s, c.technicianId) === c.part) return [];
    // What somebody is does not change while they are here: they would keep what the other part was allowed.
    if (presentOf(s, 'desk').some((p) => p.technicianId === c.technicianId)) return refuse('ALREADY_HERE');
    const { technicianId, part } = c;
    return [{ type: 'beside/letIn', by: me.id, technicianId, part, personal: { name } }];
  },
  'beside/sendAway': (s, c, me) => {
    if (!letInAs(s, c.technicianId)) return [];
    const here = isTakingOver(s, c.technicianId)
      ? undefined
      : presentOf(s, 'desk').find((p) => p.technicianId === c.technicianId && p.id !== me.id);
    const away: KernelEvent = { type: 'beside/sentAway', by: me.id, technicianId: c.technicianId };
    if (!here) return [away];
    return [away, { type: 'participantLeft', by: me.id, participantId: here.id, reason: 'was sent away' }];
  },
} satisfies Deciders<typeof besideCommands>;
