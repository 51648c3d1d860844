import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';
import { hex } from '../sealed/fields.ts';

/** A visit at the door of a device: the second secret is proven, or whoever sits there is asked instead. */
export const DoorMessage = z.discriminatedUnion('type', [
  /** A technician has come to a device, and asks what is wanted of them. */
  z.strictObject({ type: z.literal('atTheDoor') }),
  /** The second secret is proven as `second-secret.ts` draws it. */
  z.strictObject({ type: z.literal('secretWanted'), salt: hex(32), triesLeft: z.int().min(0) }),
  z.strictObject({ type: z.literal('secretBegin'), share: z.string().max(200) }),
  z.strictObject({ type: z.literal('secretShare'), share: z.string().max(200), proof: z.string().max(64) }),
  z.strictObject({ type: z.literal('secretProof'), proof: z.string().max(64) }),
  z.strictObject({ type: z.literal('secretResult'), isRight: z.boolean(), triesLeft: z.int().min(0) }),
  z.strictObject({ type: z.literal('askWhoIsThere') }),
]);
export type DoorMessage = z.infer<typeof DoorMessage>;

export const standingChannel = defineChannel({
  name: 'door',
  id: 10,
  line: 'interactive',
  message: DoorMessage,
  needs: { toCustomer: ['view-screen'], toDesk: ['view-screen'] },
  isForTheDoor: true,
  isForDoorstep: true,
});
