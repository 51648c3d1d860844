import { TechnicianSafePoints } from '@porch/client';
import { defineKept, type KeeperKit } from '../cli-ability.ts';
import { safePointsCalls } from './calls.ts';

const DONE = { done: true };

interface Here {
  readonly kit: KeeperKit;
  readonly technician: TechnicianSafePoints;
}
function allowed({ kit, technician }: Here): TechnicianSafePoints {
  kit.need('make-safe-points');
  return technician;
}

export const keptSafePoints = defineKept({
  name: 'safe-points',
  calls: safePointsCalls,
  begin(kit) {
    const technician = new TechnicianSafePoints(kit.connection);
    return { kit, technician, close: () => technician.close() };
  },
  answer: {
    makeSafePoint: async (here, { name, touches }) => allowed(here).make(name, touches),
    safePoints: async (here) => allowed(here).list(),
    compareSafePoint: async (here, { pointId }) => allowed(here).compare(pointId),
    rightsForPoint: async (here, { pointId }) => allowed(here).rightsFor(pointId),
    goBack: async (here, { pointId, byRights }) => allowed(here).goBack(pointId, { byRights }),
    async keepSafePoint(here, { pointId, days }) {
      await allowed(here).keep(pointId, days);
      return DONE;
    },
    async dropSafePoint(here, { pointId }) {
      await allowed(here).drop(pointId);
      return DONE;
    },
  },
});
