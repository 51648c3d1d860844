import { z } from 'zod';
import { id, who } from '../../ability/fields.ts';
import { InvitationWay } from '../../invitation/invitation.ts';
import { Language } from '../../language.ts';
import { event } from '../event-schema.ts';
import { Behind } from '../vocabulary.ts';

/** What a session is prepared for, and how people are asked in. */
export const invitingEvents = [
  event('sessionPrepared', {
    technicianId: who,
    behind: Behind,
    /** What the customer is spoken to in, as far as it is known. */
    language: Language.optional(),
    /** Who stands behind was known to the desk's directory, or signed in at the ticket system. */
    isConfirmed: z.boolean().optional(),
    ticketRef: z.string().max(40).optional(),
    /** The device that is visited under its standing consent, or with a yes of whoever sits there. */
    deviceId: id.optional(),
    /** What kind of device it is about, as the ticket system says: it rules out some acts. */
    deviceLabel: z.string().max(40).optional(),
    personal: z
      .strictObject({
        technicianName: z.string(),
        purpose: z.string(),
        /** As the customer reads it, where that differs; empty where there is nothing for them to read. */
        customerPurpose: z.string().optional(),
        asset: z.string().optional(),
        customerName: z.string().optional(),
        customerAddress: z.string().optional(),
        /** What was said in the queue, before there was a session. */
        saidBefore: z.array(z.strictObject({ atMs: z.number(), name: z.string(), text: z.string() })).optional(),
      })
      .optional(),
  }),
  /** Whom the session is for. Apart from its beginning, since whoever holds only a code or a link may not read it. */
  event('customerExpected', {
    personal: z
      .strictObject({
        customerName: z.string().optional(),
        customerAddress: z.string().optional(),
        /** What was said in the queue, before there was a session. */
        saidBefore: z.array(z.strictObject({ atMs: z.number(), name: z.string(), text: z.string() })).optional(),
      })
      .optional(),
  }),
  /** A session without a ticket got one. */
  event('ticketAttached', { ticketRef: z.string().max(40) }),
  event('codeIssued', { codeId: id, expiresAtMs: z.number() }),
  event('codeWithdrawn', { codeId: id }),
  event('invitationIssued', { invitationId: id, way: InvitationWay }),
  event('invitationFailed', {
    invitationId: id,
    way: InvitationWay,
    personal: z.strictObject({ why: z.string().max(300) }).optional(),
  }),
  event('invitationWithdrawn', { invitationId: id, way: InvitationWay }),
] as const;
