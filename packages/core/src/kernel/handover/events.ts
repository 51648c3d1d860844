import { z } from 'zod';
import { id, who } from '../../ability/fields.ts';
import { event } from '../event-schema.ts';

/** A session goes on with a colleague. */
export const handoverEvents = [
  event('handoverRequested', {
    handoverId: id,
    toTechnicianId: who,
    answerByMs: z.number(),
    personal: z.strictObject({ brief: z.string(), toName: z.string() }).optional(),
  }),
  event('handoverAccepted', { handoverId: id }),
  event('handoverClosed', { handoverId: id, how: z.enum(['declined', 'lapsed', 'taken-back', 'customer-said-no']) }),
  event('handedOver', { handoverId: id, fromParticipantId: id, toParticipantId: id }),
] as const;
