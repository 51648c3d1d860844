import { z } from 'zod';
import { id } from '../../ability/fields.ts';
import { event } from '../event-schema.ts';

/** What is said in the chat. */
export const chatEvents = [
  event('chatSent', { messageId: id, personal: z.strictObject({ text: z.string().max(4000) }).optional() }),
] as const;
