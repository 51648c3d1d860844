import { z } from 'zod';
import { fact, id, shortText } from '../../ability/fields.ts';
import { Language } from '../../language.ts';
import { Aim, CallAnswer, WhoseComputer } from '../vocabulary.ts';

export const joiningCommands = [
  z.strictObject({
    type: z.literal('introduceCustomer'),
    name: z.string().trim().min(1).max(120),
    address: z.string().trim().max(200),
    language: Language.optional(),
    computer: WhoseComputer.optional(),
    isMinor: z.boolean().optional(),
  }),
  z.strictObject({ type: z.literal('chooseAim'), aim: Aim }),
  /** Whether another Doorstep may take the place of the one that is there. */
  z.strictObject({ type: z.literal('answerChangeOver'), participantId: id, isYes: z.boolean() }),
  z.strictObject({ type: z.literal('answerCall'), answer: CallAnswer }),
  z.strictObject({ type: z.literal('acceptSession'), noticeVersion: z.string().max(20) }),
  /** Doorstep's word that a visit under its standing consent may begin. */
  z.strictObject({
    type: z.literal('beginVisit'),
    participantId: id,
    wasAsked: z.boolean(),
    noticeVersion: z.string().max(20),
  }),
  z.strictObject({ type: z.literal('leaveSession'), reason: shortText, fact }),
] as const;
