import { z } from 'zod';

/* What a waiting Doorstep and the service say to each other, as JSON on a socket of its own, `/devices`. */

/** A device that says nothing for this long counts as offline. */
export const DEVICE_SILENCE_MS = 45_000;
export const DEVICE_BEAT_MS = 15_000;
export const MAX_DEVICE_MESSAGE_BYTES = 8 * 1024;

/** What a device signs to show that it is the one: the service's fresh nonce, for this device and nothing else. */
export const deviceGreeting = (deviceId: string, nonce: string): Uint8Array =>
  new TextEncoder().encode(`porch device 1\n${deviceId}\n${nonce}`);

export const ToDevice = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('challenge'), nonce: z.string().length(64) }),
  z.strictObject({ type: z.literal('welcome') }),
  /** A technician is at the door: the token lets Doorstep into that one session. */
  z.strictObject({
    type: z.literal('visit'),
    sessionId: z.uuid(),
    token: z.string().max(100),
    technicianName: z.string().max(200),
  }),
  /** The desk will not come back: everything that belongs to the standing consent is to go. */
  z.strictObject({ type: z.literal('forget') }),
]);
export type ToDevice = z.infer<typeof ToDevice>;

export const FromDevice = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('hello'), deviceId: z.uuid(), signature: z.string().max(128) }),
  z.strictObject({ type: z.literal('presence'), isInUse: z.boolean() }),
  z.strictObject({ type: z.literal('visitNotTaken'), sessionId: z.uuid(), why: z.enum(['busy', 'ended']) }),
  /** The standing consent was ended at the device. */
  z.strictObject({ type: z.literal('ended') }),
]);
export type FromDevice = z.infer<typeof FromDevice>;
