import { PointName, PointTouches } from '@porch/core';
import { z } from 'zod';

const pointId = z.uuid();
export const safePointsCalls = {
  makeSafePoint: { name: PointName, touches: PointTouches },
  safePoints: {},
  compareSafePoint: { pointId },
  goBack: { pointId },
  keepSafePoint: { pointId, days: z.int() },
  dropSafePoint: { pointId },
} as const;
