import { z } from 'zod';
import { id } from '../../ability/fields.ts';

export const MAX_CHAT_CHARACTERS = 4000;

export const chatCommands = [
  z.strictObject({
    type: z.literal('sendChat'),
    messageId: id,
    text: z.string().trim().min(1).max(MAX_CHAT_CHARACTERS),
  }),
] as const;
