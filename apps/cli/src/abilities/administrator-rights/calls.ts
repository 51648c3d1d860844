import { MAX_RIGHTS_CHARACTERS, RightsWay } from '@porch/core';
import { z } from 'zod';

const raiseId = z.uuid();
const what = z.string().min(1).max(MAX_RIGHTS_CHARACTERS);
export const administratorRightsCalls = {
  rightsNow: {},
  /** Under which number it is asked, and whether the desk's yes comes first. */
  wantRights: { what, way: RightsWay.optional() },
  askLeaveForRights: { raiseId, what, reason: z.string().max(200).optional() },
  /** Resolves once they are raised, or with that a second person has to say yes first. */
  raiseRights: { raiseId, what, way: RightsWay },
  lowerRights: {},
} as const;
