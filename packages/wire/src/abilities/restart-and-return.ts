import { RestartHit, RestartHow } from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

const id = z.uuid();
export const MAX_HITS = 20;

/**
 * Technician ↔ the customer's side. `look` asks what a restart would meet, `restart` wants it: the person there is asked,
 * sees the same, and says what comes back by itself. `begun`: they said yes, and it goes down. What becomes of it, the
 * ledger says.
 */
export const RestartMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('look'), id }),
  z.strictObject({
    ...{ type: z.literal('restart'), id, how: RestartHow },
    /** The account is signed in once, by itself; it needs administrator rights, and where the desk gave leave for those a signature. */
    signsIn: z.literal(true).optional(),
    signature: z
      .string()
      .regex(/^[0-9a-f]{128}$/)
      .optional(),
  }),
  /** Thought better of, while the person there is asked. */
  z.strictObject({ type: z.literal('drop'), id }),
  z.strictObject({
    ...{ type: z.literal('hits'), id },
    /** As its network knows it. */
    computer: z.string().max(80),
    /** The account that is signed in there. */
    account: z.string().max(80),
    /** `count`: of how many, where that can be told; whose they are stays there. */
    hits: z.array(z.strictObject({ hit: RestartHit, count: z.int().min(0).optional() })).max(MAX_HITS),
    hows: z.array(RestartHow),
    /** Whether the account could be signed in once, by itself. */
    canSignIn: z.boolean(),
    /** The device's label asks for the desk's leave first. */
    isCareful: z.literal(true).optional(),
  }),
  z.strictObject({ type: z.literal('begun'), id }),
  z.strictObject({ type: z.literal('refused'), id, why: z.string().max(120) }),
]);
export type RestartMessage = z.infer<typeof RestartMessage>;

export const restartChannel = defineChannel({
  name: 'restart-and-return',
  id: 25,
  line: 'interactive',
  message: RestartMessage,
  needs: { toCustomer: ['restart-computer'], toDesk: ['restart-computer'] },
  isForDoorstep: true,
});
