import { TechnicianRights, type RightsWays } from '@porch/client';
import { AppError } from '@porch/wire';
import { rightsOf } from '@porch/core';
import { defineKept, type KeeperKit } from '../cli-ability.ts';
import { awaitLeave } from '../leave-kept.ts';
import { administratorRightsCalls } from './calls.ts';

/** How rights of this technician stand. */
export interface RightsNow {
  readonly raised: { readonly untilMs: number; readonly way: string } | null;
  /** Missing while nobody may have them. */
  readonly ways: RightsWays | null;
}

/** The ledger may come a moment after the answer. */
const LEDGER_MS = 10_000;
const mine = ({ connection }: KeeperKit) =>
  rightsOf(connection.state.slices['administrator-rights'], connection.participantId);

export const keptAdministratorRights = defineKept({
  name: 'administrator-rights',
  calls: administratorRightsCalls,
  begin(kit) {
    const technician = new TechnicianRights(kit.connection, kit.rest);
    return { kit, technician, close: () => technician.close() };
  },
  answer: {
    async rightsNow({ kit, technician }): Promise<RightsNow> {
      const raised = mine(kit);
      const ways = kit.may('raise-rights') ? await technician.ways() : null;
      return { raised: raised ? { untilMs: raised.untilMs ?? 0, way: raised.way ?? '' } : null, ways };
    },
    async wantRights({ kit, technician }, { what, way }) {
      kit.need('raise-rights');
      const ways = await technician.ways();
      const by = way ?? (ways.password || !ways.installed ? 'password' : 'desk');
      return { ...technician.wanted(what), way: by, isCareful: ways.isCareful };
    },
    async askLeaveForRights({ kit, technician }, { raiseId, what, reason }) {
      await technician.askLeave({ raiseId, what }, reason);
      return awaitLeave(kit, raiseId);
    },
    async raiseRights({ kit, technician }, { raiseId, what, way }) {
      try {
        await technician.raise({ raiseId, what }, way, await technician.ways());
      } catch (error) {
        if (error instanceof AppError && error.code === 'SECOND_YES_MISSING') return { needsSecond: true };
        throw error;
      }
      await kit.until(() => mine(kit) !== undefined, LEDGER_MS);
      return { raiseId, way, untilMs: mine(kit)?.untilMs ?? 0 };
    },
    async lowerRights({ kit, technician }) {
      const raiseId = mine(kit)?.raiseId;
      if (raiseId === undefined) return { lowered: false };
      technician.lower(raiseId);
      await kit.until(() => mine(kit) === undefined, LEDGER_MS);
      return { lowered: true };
    },
  },
});
