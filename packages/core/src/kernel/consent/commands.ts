import { z } from 'zod';
import { fact, id, shortText } from '../../ability/fields.ts';
import { MAX_ASKED_TOGETHER, Permission } from '../../permission/permission.ts';

export const consentCommands = [
  /** The page can show something itself, as long as Doorstep is not there. */
  z.strictObject({ type: z.literal('offerOwnPicture') }),
  z.strictObject({
    type: z.literal('askPermissions'),
    askId: id,
    permissions: z.array(Permission).min(1).max(MAX_ASKED_TOGETHER),
  }),
  z.strictObject({ type: z.literal('takeBackAsk'), askId: id }),
  z.strictObject({
    type: z.literal('grantAsk'),
    askId: id,
    isStanding: z.boolean().optional(),
    isReturn: z.boolean().optional(),
    grants: z
      .array(z.strictObject({ statement: z.string().max(2000), signature: z.string().max(200) }))
      .min(1)
      .max(MAX_ASKED_TOGETHER),
  }),
  z.strictObject({ type: z.literal('refuseAsk'), askId: id, fact }),
  z.strictObject({
    type: z.literal('withdrawPermission'),
    participantId: id,
    permission: Permission,
    why: shortText,
    fact,
  }),
  z.strictObject({ type: z.literal('loseScreen'), why: shortText, fact }),
] as const;
