import { refuse } from '../../decision.ts';
import { permissionsThat } from '../../permission/permission.ts';
import { factOf, isOfDesk, noteFact, type Deciders } from '../decider.ts';
import type { KernelEvent } from '../events.ts';
import { isOver, standingOf } from '../state.ts';
import type { endingCommands } from './commands.ts';

export const endingDeciders = {
  askToTry: (s, _c, me) => {
    if (s.phase.name !== 'live') return refuse(isOver(s) ? 'SESSION_ENDED' : 'ACCEPTANCE_MISSING');
    // Proof first: whoever tries it has the mouse to themselves.
    const gaveUp = permissionsThat((rules) => rules.isHandsOn)
      .filter((permission) => standingOf(s, me.id, permission).name === 'allowed')
      .map((permission): KernelEvent => ({
        type: 'permissionWithdrawn',
        by: me.id,
        participantId: me.id,
        permission,
        why: 'so that the customer can try it',
      }));
    return [...gaveUp, { type: 'tryItAsked', by: me.id }];
  },
  answerTry: (s, c, me) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    return [{ type: 'tryItAnswered', by: me.id, answer: c.answer }];
  },
  endSession: (s, c, me) => {
    if (isOver(s)) return isOfDesk(me) ? [] : noteFact(me, 'pressed Stop after the end', c.fact);
    if (isOfDesk(me)) return [{ type: 'sessionEnded', by: me.id, reason: 'technician', why: c.why }];
    return [
      {
        type: 'sessionEnded',
        by: me.id,
        reason: c.reason === 'technician' ? 'customer' : c.reason,
        why: c.why,
        ...factOf(c),
      },
    ];
  },
  logOutcome: (s, c, me) => {
    if (s.phase.name === 'logged') return refuse('OUTCOME_LOGGED');
    if (s.phase.name !== 'ended') return refuse('SESSION_NOT_ENDED');
    if (s.technicianId !== me.technicianId) return refuse('NOT_THE_LEAD');
    return [{ type: 'outcomeLogged', by: me.id, outcome: c.outcome, minutes: c.minutes, personal: { note: c.note } }];
  },
} satisfies Deciders<typeof endingCommands>;
