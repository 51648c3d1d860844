import { SafePointRefused, TechnicianSafePoints } from '@porch/client';
import { RefusedThere } from '../../keeper/refused-there.ts';
import { defineKept, type KeeperKit } from '../cli-ability.ts';
import { safePointsCalls } from './calls.ts';

const DONE = { done: true };

interface Here {
  readonly kit: KeeperKit;
  readonly technician: TechnicianSafePoints;
}
/** What the customer's side refuses is said in its words. */
async function ask<T>({ kit, technician }: Here, what: (technician: TechnicianSafePoints) => Promise<T>): Promise<T> {
  kit.need('make-safe-points');
  try {
    return await what(technician);
  } catch (error) {
    throw error instanceof SafePointRefused ? new RefusedThere(error.message) : error;
  }
}

export const keptSafePoints = defineKept({
  name: 'safe-points',
  calls: safePointsCalls,
  begin(kit) {
    const technician = new TechnicianSafePoints(kit.connection);
    return { kit, technician, close: () => technician.close() };
  },
  answer: {
    makeSafePoint: (here, { name, touches }) => ask(here, (technician) => technician.make(name, touches)),
    safePoints: (here) => ask(here, (technician) => technician.list()),
    compareSafePoint: (here, { pointId }) => ask(here, (technician) => technician.compare(pointId)),
    goBack: (here, { pointId }) => ask(here, (technician) => technician.goBack(pointId)),
    keepSafePoint: (here, { pointId, days }) =>
      ask(here, (technician) => technician.keep(pointId, days).then(() => DONE)),
    dropSafePoint: (here, { pointId }) => ask(here, (technician) => technician.drop(pointId).then(() => DONE)),
  },
});
