import { isOver } from '@porch/core';
import type { HostAbility } from '../../kit.ts';
import { planToKeep } from './keep-desk.ts';
import { atTheDoorLine } from './questions.ts';
import { VisitDesk } from './visit-desk.ts';

/** Makes standing consents, and lets visits in under one. */
export const standing: HostAbility = {
  name: 'standing',
  whyNot: (_permission, { keep }) => (keep && !keep.isTaken ? undefined : 'no-standing-consent-here'),
  begin(kit) {
    const { connection } = kit;
    const { keep, visit } = kit.ports;
    const desk = visit && new VisitDesk(kit, visit);
    if (desk) {
      kit.shared.isProven = (participantId) => desk.isProven(participantId);
      kit.shared.mayBeAlone = (signKey) => desk.mayBeAlone(signKey);
    }
    // Taken back in the session in which it was made, by whomever: then it goes with all that belongs to it.
    const off = connection.on('entry', ({ event }) => {
      if (event.type === 'permissionWithdrawn' && event.permission === 'keep-device') keep?.onDropped();
    });
    return {
      covers: (ask) => {
        const untilMs = desk?.coveredUntilMs(ask);
        return untilMs === undefined ? undefined : { untilMs, by: 'standing' };
      },
      plan: (ask, put) =>
        keep && ask.permissions.includes('keep-device') ? planToKeep(kit, keep, ask, put) : undefined,
      barAlone: () =>
        desk && !kit.isStopped && !isOver(connection.state)
          ? atTheDoorLine(connection.state, desk.hasBegun)
          : undefined,
      close: () => {
        off();
        desk?.close();
      },
    };
  },
};
