import { z } from 'zod';
import { Moment } from './moment.ts';

/** Leave for administrator rights, once, on the computer that says so, by the key that was installed there. */
export const RightsLeaveBody = z.strictObject({
  raiseId: z.uuid(),
  participantId: z.uuid(),
  deviceId: z.string().regex(/^[0-9a-f]{32}$/, '32 hexadecimal digits'),
  deskKey: z.string().regex(/^[0-9a-f]{64}$/, '64 hexadecimal digits'),
});
export const RightsLeaveGiven = z.object({ raiseId: z.uuid(), untilMs: Moment });
