import { LeftAsItIs, PointDifference, PointName, PointTouches, RightsBack, SafePoint } from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** The most points of one computer, and the most differences that are told; how many there are is said besides. */
export const MAX_SAFE_POINTS = 40;
export const MAX_TOLD_DIFFERENCES = 100;
/** The longest that one may stay on the computer. */
export const MAX_KEPT_DAYS = 30;

const id = z.uuid();
const count = z.int().min(0).max(10_000_000);
/** The number of its message is that of the order. The signature is the technician's, for the part that holds such rights. */
const byRights = z.strictObject({ back: RightsBack, signature: z.string().regex(/^[0-9a-f]{128}$/) });

/**
 * Technician ↔ the customer's side; everything that is asked has a number of its own, by which it is answered. `undo` goes
 * back to a point, having made another one of what is there now; `rightsFor` asks what of that only an administrator may, and
 * whoever has such rights signs that list and sends it with `undo`. `keep` asks the person whether it may stay after the session.
 */
export const SafePointsMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('make'), id, name: PointName, touches: PointTouches }),
  z.strictObject({ type: z.literal('list'), id }),
  z.strictObject({ type: z.literal('compare'), id, pointId: id }),
  z.strictObject({ type: z.literal('rightsFor'), id, pointId: id }),
  z.strictObject({ type: z.literal('undo'), id, pointId: id, byRights: byRights.optional() }),
  z.strictObject({ type: z.literal('keep'), id, pointId: id, days: z.int().min(1).max(MAX_KEPT_DAYS) }),
  z.strictObject({ type: z.literal('drop'), id, pointId: id }),
  z.strictObject({ type: z.literal('stop'), id }),
  z.strictObject({ type: z.literal('progress'), id, files: count, sizeBytes: z.number().min(0) }),
  z.strictObject({ type: z.literal('made'), id, point: SafePoint }),
  z.strictObject({ type: z.literal('points'), id, points: z.array(SafePoint).max(MAX_SAFE_POINTS) }),
  z.strictObject({
    ...{ type: z.literal('differences'), id, count },
    differences: z.array(PointDifference).max(MAX_TOLD_DIFFERENCES),
  }),
  z.strictObject({
    ...{ type: z.literal('undone'), id, count, leftCount: count },
    left: z.array(LeftAsItIs).max(MAX_TOLD_DIFFERENCES),
    /** Why nothing was done by administrator rights. */
    why: z.string().max(120).optional(),
  }),
  z.strictObject({ type: z.literal('needsRights'), id, back: RightsBack }),
  z.strictObject({ type: z.literal('done'), id }),
  z.strictObject({ type: z.literal('refused'), id, why: z.string().max(120) }),
]);
export type SafePointsMessage = z.infer<typeof SafePointsMessage>;

export const safePointsChannel = defineChannel({
  name: 'safe-points',
  id: 20,
  line: 'bulk',
  message: SafePointsMessage,
  needs: { toCustomer: ['make-safe-points'], toDesk: ['make-safe-points'] },
  isForDoorstep: true,
});
