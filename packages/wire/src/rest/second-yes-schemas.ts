import { z } from 'zod';
import { Moment } from './moment.ts';

/** Something on a device whose label asks for care: somebody else's yes is waited for, or a lead is to look at it. */
export const CarefulActView = z.object({
  sessionId: z.string(),
  actId: z.string(),
  kind: z.enum(['second-yes', 'override']),
  /** What kind of act it is, as programs call it. */
  act: z.string(),
  /** What it is done to. */
  name: z.string(),
  deviceLabel: z.string(),
  customerName: z.string().optional(),
  askedById: z.string(),
  askedByName: z.string(),
  askedByTeam: z.string(),
  reason: z.string().optional(),
  askedAtMs: Moment,
});
export type CarefulActView = z.infer<typeof CarefulActView>;

export const SecondYesBody = z.strictObject({ isYes: z.boolean() });
