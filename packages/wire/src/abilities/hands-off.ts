import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** Technician → Doorstep: they are there, and want it to last. Without a word for three seconds it is over for good. */
export const HandsOffMessage = z.discriminatedUnion('type', [z.strictObject({ type: z.literal('keep') })]);
export type HandsOffMessage = z.infer<typeof HandsOffMessage>;

export const handsOffChannel = defineChannel({
  name: 'hands-off',
  id: 17,
  line: 'interactive',
  message: HandsOffMessage,
  needs: { toCustomer: ['block-input', 'cover-screen'], toDesk: [] },
  isForDoorstep: true,
});
