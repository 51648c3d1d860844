import { isHolderThere, TechnicianRestart, type RestartOutlookThere } from '@porch/client';
import type { AgreedReturn, AwayComputer } from '@porch/core';
import { defineKept } from '../cli-ability.ts';
import { awaitLeave } from '../leave-kept.ts';
import { restartCalls } from './calls.ts';

/** How their computer is, and what a restart would meet. */
export interface RestartNow {
  readonly agreed: AgreedReturn | null;
  readonly away: AwayComputer | null;
  readonly returns: number;
  /** Missing while nobody may restart it, or nobody is there. */
  readonly outlook: RestartOutlookThere | null;
}

/** Somebody has to come, and sign in. */
const RETURN_MS = 60 * 60_000;
const PERMISSIONS_MS = 10_000;

export const keptRestart = defineKept({
  name: 'restart-and-return',
  calls: restartCalls,
  begin(kit) {
    const technician = new TechnicianRestart(kit.connection);
    const slice = () => kit.connection.state.slices['restart-and-return'];
    let returnsBefore = slice().returns;
    return {
      ...{ kit, technician, slice },
      begins: () => (returnsBefore = slice().returns),
      isBack: () => slice().returns > returnsBefore && slice().away === undefined,
      status: () => (slice().away ? { restart: slice().away?.step } : {}),
      close: () => technician.close(),
    };
  },
  answer: {
    async restartNow({ kit, technician, slice }): Promise<RestartNow> {
      const { agreed = null, away = null, returns } = slice();
      const canLook = kit.may('restart-computer') && isHolderThere(kit.connection) && !away;
      return { agreed, away, returns, outlook: canLook ? await technician.look() : null };
    },
    async wantRestart({ kit, technician }, { how, signsIn }) {
      kit.need('restart-computer');
      const { isCareful } = await technician.look();
      return { ...technician.wanted(how, signsIn), isCareful };
    },
    async askLeaveForRestart({ kit, technician }, { restartId, how, reason }) {
      await technician.askLeave({ restartId, how, signsIn: false }, await technician.look(), reason);
      return awaitLeave(kit, restartId);
    },
    async restart({ technician, begins }, wanted) {
      begins();
      await technician.restart(wanted, await technician.look());
      return { restartId: wanted.restartId };
    },
    async awaitReturn({ kit, slice, isBack }) {
      const wasBack = await kit.until(isBack, RETURN_MS);
      // What was agreed is asked for and answered by itself.
      await kit.until(() => slice().toAsk.every((one) => kit.may(one as never)), PERMISSIONS_MS);
      const { agreed, away, returns } = slice();
      return { isBack: wasBack, returns, agreed: agreed ?? null, away: away ?? null };
    },
  },
});
