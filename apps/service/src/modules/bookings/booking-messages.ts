import {
  bookingTemplates,
  fillTemplate,
  momentInWords,
  type BookingNotice,
  type Message,
  type PolicyFor,
} from '@porch/core';
import type { DataSource, EntityManager } from 'typeorm';
import { NeverDeliverable, type Carrier, type Parcels } from '../../module/parcels.ts';
import type { InvitationDesk } from '../invitations/invitation-desk.ts';
import { calendarFile } from '../invitations/invitation-files.ts';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { Technicians } from '../people/technician.ts';
import { BookingEntity, type BookingRow } from './booking-table.ts';

export interface BookingMessagesParts {
  readonly records: DataSource;
  readonly invitations: InvitationDesk;
  readonly outbox: Outbox;
  readonly gateway: MessageGateway;
  readonly policyFor: PolicyFor;
  readonly technicians: Technicians;
  readonly mailFrom: string;
  publicUrl(): string;
}

/** What customers are told of their bookings, each with a calendar file. */
export class BookingMessages {
  readonly #parts: BookingMessagesParts;

  constructor(parts: BookingMessagesParts) {
    this.#parts = parts;
  }

  /** Writes down what the customer is to be told, in the transaction that decides it. */
  async tell(
    tx: EntityManager,
    row: Pick<BookingRow, 'id' | 'sessionId' | 'sequence' | 'telephone'>,
    notice: BookingNotice,
    nowMs: number,
  ): Promise<void> {
    const { outbox } = this.#parts;
    // One parcel for each way: when one hangs, the other is not sent again with it.
    const hasText = notice === 'reminder' && row.telephone && this.#parts.gateway.hasTexts;
    const ways = hasText ? (['mail', 'text'] as const) : (['mail'] as const);
    for (const by of ways)
      await outbox.put(tx, row.sessionId, 'booking', { bookingId: row.id, notice, sequence: row.sequence, by }, nowMs);
  }

  get carrier(): Carrier<Parcels['booking']> {
    const about = (bookingId: string) => this.#parts.records.getRepository(BookingEntity).findOneBy({ id: bookingId });
    return {
      carry: ({ bookingId, notice, sequence, by = 'mail' }) => this.#send(bookingId, notice, sequence, by),
      // What the booking shows is how its mail fares.
      heldUp: async ({ bookingId, by }, why) => {
        if (by === 'text') return;
        const row = await about(bookingId);
        if (row) await this.#parts.invitations.note(row.invitationId, { type: 'heldUp', why });
      },
      givenUp: async ({ bookingId, by }, why) => {
        if (by === 'text') return;
        const row = await about(bookingId);
        if (row) await this.#parts.invitations.fail(row.invitationId, why);
      },
    };
  }

  async #send(id: string, notice: BookingNotice, sequence: number, by: 'mail' | 'text'): Promise<void> {
    const { records, gateway, invitations } = this.#parts;
    const row = await records.getRepository(BookingEntity).findOneBy({ id });
    // A later change has its own message; an older one would only confuse.
    if (!row || row.sequence > sequence) return;
    if (by === 'mail' && !gateway.hasMail) throw new NeverDeliverable('the desk has no mail server');
    const [invitation] = await invitations.byIds([row.invitationId]);
    if (!invitation) return;
    const link = invitations.linkOf(invitation);
    const { subject, text } = this.#message(row, notice, link);
    if (by === 'text') {
      if (!row.telephone || !gateway.hasTexts) throw new NeverDeliverable('there is no telephone to write to');
      await gateway.text({ to: row.telephone, text: subject, reportRef: invitation.reportRef });
      return;
    }
    await gateway.mail({
      to: row.address,
      subject,
      text,
      reportRef: invitation.reportRef,
      ...(notice === 'reminder'
        ? {}
        : { calendar: { method: row.isCancelled ? 'CANCEL' : 'REQUEST', content: this.calendar(row, link) } }),
    });
    await invitations.note(invitation.id, { type: 'handedOver' });
  }

  #message(row: BookingRow, notice: BookingNotice, link: string): Message {
    const { policyFor, technicians } = this.#parts;
    const policy = policyFor();
    return fillTemplate(bookingTemplates[notice][row.language], {
      customer: row.customerName,
      technician: technicians.get(row.technicianId)?.name ?? '',
      desk: policy.deskName,
      phone: policy.deskPhone,
      purpose: row.purpose,
      link: row.isCancelled ? '' : link,
      until: momentInWords(row.startsAt.getTime(), row.language, row.timeZone),
      remark: row.remark,
    });
  }

  /** As a calendar file (RFC 5545). */
  calendar(row: BookingRow, link: string): string {
    const { policyFor, publicUrl, mailFrom } = this.#parts;
    const { subject, text } = this.#message(row, row.isCancelled ? 'cancelled' : 'made', link);
    return calendarFile({
      uid: `${row.id}@${new URL(publicUrl()).hostname}`,
      sequence: row.sequence,
      startsAtMs: row.startsAt.getTime(),
      minutes: row.minutes,
      summary: subject,
      description: text,
      link,
      organizer: { name: policyFor().deskName, from: mailFrom },
      attendee: { name: row.customerName, email: row.address },
      isCancelled: row.isCancelled,
      remindMinutes: row.remindMinutes,
    });
  }
}
