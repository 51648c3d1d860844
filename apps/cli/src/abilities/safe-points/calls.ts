import { PointName, PointTouches, RightsBack } from '@porch/core';
import { z } from 'zod';

const pointId = z.uuid();
export const safePointsCalls = {
  makeSafePoint: { name: PointName, touches: PointTouches },
  safePoints: {},
  compareSafePoint: { pointId },
  rightsForPoint: { pointId },
  goBack: { pointId, byRights: RightsBack.optional() },
  keepSafePoint: { pointId, days: z.int() },
  dropSafePoint: { pointId },
} as const;
