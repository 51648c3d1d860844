import { z } from 'zod';
import { fact, id } from '../../ability/fields.ts';
import type { Permission } from '../../permission/permission.ts';
import { event, openName } from '../event-schema.ts';

/** Of a later release, perhaps: then nobody here can use it. */
const permission = openName as unknown as z.ZodType<Permission>;

/** What technicians ask, and what the customer's side says to it. */
export const consentEvents = [
  /** The page, and no program on the computer, shows a picture and holds the consent to it. */
  event('ownPictureOffered', {}),
  event('permissionsAsked', {
    askId: id,
    participantId: id,
    permissions: z.array(permission).min(1),
    expiresAtMs: z.number(),
  }),
  event('askClosed', { askId: id, how: z.enum(['refused', 'lapsed', 'taken-back']) }),
  event('permissionGranted', {
    askId: id,
    participantId: id,
    permission,
    grantNumber: z.int().min(1),
    endsAtMs: z.number(),
    grant: z.string().max(2000),
    signature: z.string().max(200),
    /** Granted by a standing consent, and not by a yes just now. */
    isStanding: z.boolean().optional(),
    /** Granted as the person said before a restart, and not by a yes just now. */
    isReturn: z.boolean().optional(),
  }),
  event('permissionWithdrawn', {
    participantId: id,
    permission,
    why: z.string().max(60),
    fact,
  }),
  event('screenLost', { why: z.string().max(60), fact }),
] as const;
