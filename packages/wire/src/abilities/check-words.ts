import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';
import { hex } from '../sealed/fields.ts';

/** The exchange behind the verification words: commit, then reveal. */
export const CheckWordsMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('commit'), commitment: hex(64) }),
  z.strictObject({ type: z.literal('nonce'), nonce: hex(64) }),
  z.strictObject({ type: z.literal('reveal'), nonce: hex(64) }),
  z.strictObject({ type: z.literal('askCompare') }),
]);
export type CheckWordsMessage = z.infer<typeof CheckWordsMessage>;

export const checkWordsChannel = defineChannel({
  name: 'check-words',
  id: 8,
  line: 'interactive',
  message: CheckWordsMessage,
  needs: { toCustomer: ['view-screen'], toDesk: ['view-screen'] },
});
