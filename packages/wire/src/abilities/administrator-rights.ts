import { MAX_RIGHTS_CHARACTERS, RightsWay } from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

const id = z.uuid();
/**
 * Technician ↔ the customer's side. `ways` asks how rights could be raised there, `raise` begins: the person there is asked
 * for a password, or the ledger has the desk's leave. `lower` gives them back. How they stand, the ledger says.
 */
export const AdministratorRightsMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('ways'), id }),
  z.strictObject({
    type: z.literal('raise'),
    id,
    way: RightsWay,
    what: z.string().trim().min(1).max(MAX_RIGHTS_CHARACTERS),
  }),
  z.strictObject({ type: z.literal('lower'), id }),
  z.strictObject({
    ...{ type: z.literal('possible'), id },
    /** The person there, or an administrator beside them, may type a password. */
    password: z.boolean(),
    /** Where the part that holds rights is installed: which computer it is, and the key of the desk that may give leave. */
    installed: z
      .strictObject({ deviceId: z.string().regex(/^[0-9a-f]{32}$/), deskKey: z.string().regex(/^[0-9a-f]{64}$/) })
      .optional(),
    /** The device's label asks for the desk's leave first. */
    isCareful: z.literal(true).optional(),
  }),
  /** They are raised. */
  z.strictObject({ type: z.literal('raised'), id }),
  z.strictObject({ type: z.literal('refused'), id, why: z.string().max(120) }),
]);
export type AdministratorRightsMessage = z.infer<typeof AdministratorRightsMessage>;

export const administratorRightsChannel = defineChannel({
  name: 'administrator-rights',
  id: 24,
  line: 'interactive',
  message: AdministratorRightsMessage,
  needs: { toCustomer: ['raise-rights'], toDesk: ['raise-rights'] },
  isForDoorstep: true,
});
