import { ledger } from '@porch/words/ledger';
import {
  fillTemplate,
  isOver,
  momentInWords,
  purposeForCustomer,
  type InvitationWay,
  type MessageKind,
  type Message,
  type PolicyFor,
  type SessionState,
} from '@porch/core';
import { AppError, type InviteBody } from '@porch/wire';
import { NeverDeliverable, type Carrier, type Parcels } from '../../module/parcels.ts';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { Technician } from '../people/technician.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { TicketSystem } from '../tickets/ticket-system.ts';
import type { InvitationDesk } from './invitation-desk.ts';
import { calendarFile } from './invitation-files.ts';
import type { InvitationRow } from './invitation-table.ts';

const MINUTE_MS = 60_000;
const SOON_MS = 5 * MINUTE_MS;
const SOON_MINUTES = 30;

export interface InvitationMessagesParts {
  readonly desk: InvitationDesk;
  readonly book: SessionBook;
  readonly gateway: MessageGateway;
  readonly ticketSystem: TicketSystem;
  readonly policyFor: PolicyFor;
  readonly mailFrom: string;
  publicUrl(): string;
}

/** Invitations as customers read them: shown beforehand, and sent. */
export class InvitationMessages {
  readonly #parts: InvitationMessagesParts;

  constructor(parts: InvitationMessagesParts) {
    this.#parts = parts;
  }

  /** What would be sent, with a link that leads nowhere yet. */
  preview(me: Technician, state: SessionState, body: InviteBody): Message {
    const kind = messageKindOf(body.way);
    const untilMs =
      Date.now() + (body.minutes ? body.minutes * MINUTE_MS : this.#parts.policyFor(me.team).invitationLifetimeMs);
    return this.#message(
      kind,
      state,
      { language: body.language, remark: body.remark, untilMs },
      me.name,
      `${this.#parts.publicUrl()}/join/…`,
    );
  }

  /** A calendar entry (RFC 5545) without a booking: it begins soon, since somebody is on the telephone. */
  calendar(row: InvitationRow, state: SessionState): string {
    const { desk, policyFor, mailFrom, publicUrl } = this.#parts;
    const link = desk.linkOf(row);
    const { language, remark, expiresAt } = row;
    const { subject, text } = this.#message(
      'calendar',
      state,
      { language, remark: remark ?? '', untilMs: expiresAt.getTime() },
      state.technicianName ?? '',
      link,
    );
    return calendarFile({
      uid: `${row.id}@${new URL(publicUrl()).hostname}`,
      sequence: 0,
      startsAtMs: row.issuedAt.getTime() + SOON_MS,
      minutes: SOON_MINUTES,
      summary: subject,
      description: text,
      link,
      organizer: { name: policyFor().deskName, from: mailFrom },
      isCancelled: false,
      remindMinutes: [],
    });
  }

  /** For the outbox: sends one invitation, made now, so that no link lies about. */
  get carrier(): Carrier<Parcels['invitation']> {
    const { desk } = this.#parts;
    return {
      carry: ({ invitationId }, id) => this.#send(invitationId, id),
      heldUp: ({ invitationId }, why) => desk.note(invitationId, { type: 'heldUp', why }),
      givenUp: ({ invitationId }, why) => desk.fail(invitationId, why),
    };
  }

  async #send(id: string, parcelId: string): Promise<void> {
    const { desk, book, gateway, ticketSystem } = this.#parts;
    const [row] = await desk.byIds([id]);
    // Withdrawn or erased meanwhile: nothing is to be sent any longer.
    if (!row || row.delivery === 'withdrawn') return;
    const { state } = await book.open(row.sessionId);
    if (isOver(state)) throw new NeverDeliverable('the session ended before it could be sent');
    if (row.expiresAt.getTime() <= Date.now()) throw new NeverDeliverable('the link expired before it could be sent');
    const { subject, text } = this.#message(
      messageKindOf(row.way),
      state,
      { language: row.language, remark: row.remark ?? '', untilMs: row.expiresAt.getTime() },
      state.technicianName ?? '',
      desk.linkOf(row),
    );
    if (row.way === 'mail') await gateway.mail({ to: row.address ?? '', subject, text, reportRef: row.reportRef });
    else if (row.way === 'text-message') await gateway.text({ to: row.address ?? '', text, reportRef: row.reportRef });
    else await ticketSystem.comment(state.ticketRef ?? '', text, parcelId).catch(neverIfUnknown);
    await desk.note(id, { type: 'handedOver' });
  }

  #message(
    kind: MessageKind,
    state: SessionState,
    about: { language: InvitationRow['language']; remark: string; untilMs: number },
    technicianName: string,
    link: string,
  ): Message {
    const policy = this.#parts.policyFor();
    return fillTemplate(policy.templates[kind][about.language], {
      customer: state.customerName ?? '',
      technician: technicianName,
      desk: policy.deskName,
      phone: policy.deskPhone,
      purpose: purposeForCustomer(state, ledger[about.language]),
      link,
      until: momentInWords(about.untilMs, about.language, policy.timeZone),
      remark: about.remark,
    });
  }
}

function neverIfUnknown(error: unknown): never {
  if (error instanceof AppError && error.code === 'TICKET_NOT_FOUND')
    throw new NeverDeliverable('the ticket system has no such ticket', { cause: error });
  throw error;
}

const messageKindOf = (way: InvitationWay): MessageKind =>
  way === 'mail' || way === 'text-message' || way === 'ticket-comment' || way === 'calendar' ? way : 'mail';
