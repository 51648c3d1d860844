import { refuse } from '../../decision.ts';
import { factOf, isOfDesk, noteFact, type Deciders } from '../decider.ts';
import { failedHandover } from '../handover/handing-over.ts';
import { isOver } from '../state.ts';
import { askEvents } from './asking.ts';
import type { consentCommands } from './commands.ts';
import { grantEvents } from './granting.ts';

export const consentDeciders = {
  offerOwnPicture: (s, _c, me) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    // Doorstep, once there, can do all that a page can.
    return s.holderId ? [] : [{ type: 'ownPictureOffered', by: me.id }];
  },
  askPermissions: askEvents,
  takeBackAsk: (s, c, me) => {
    const ask = s.asks[c.askId];
    if (!ask) return [];
    if (ask.participantId !== me.id) return refuse('WRONG_ROLE');
    return [{ type: 'askClosed', by: me.id, askId: c.askId, how: 'taken-back' }];
  },
  grantAsk: grantEvents,
  refuseAsk: (s, c, me) => {
    const ask = s.asks[c.askId];
    if (!ask) return noteFact(me, 'said no to an ask that was closed already', c.fact);
    return [
      { type: 'askClosed', by: me.id, askId: c.askId, how: 'refused' },
      ...failedHandover(s, ask.participantId, me.id),
    ];
  },
  withdrawPermission: (_s, c, me) => {
    // A technician may only give up what is theirs; the customer's side may take back anything.
    if (isOfDesk(me) && c.participantId !== me.id) return refuse('WRONG_ROLE');
    return [
      {
        type: 'permissionWithdrawn',
        by: me.id,
        participantId: c.participantId,
        permission: c.permission,
        why: c.why,
        ...factOf(c),
      },
    ];
  },
  loseScreen: (_s, c, me) => [{ type: 'screenLost', by: me.id, why: c.why, ...factOf(c) }],
} satisfies Deciders<typeof consentCommands>;
