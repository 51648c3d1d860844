import type { Language, Wanted } from '@porch/core';
import { EntitySchema } from 'typeorm';

/** What changes about a technician during a day. */
export interface TechnicianStateRow {
  technicianId: string;
  isAway: boolean;
  /** Without a console open they count as here until then: for those who work in a terminal. */
  hereUntil: Date | null;
  wrapUpUntil: Date | null;
  lastGivenAt: Date | null;
}
export const TechnicianStateEntity = new EntitySchema<TechnicianStateRow>({
  name: 'technician_state',
  columns: {
    technicianId: { type: 'text', primary: true, name: 'technician_id' },
    isAway: { type: 'boolean', name: 'is_away' },
    hereUntil: { type: 'timestamptz', name: 'here_until', nullable: true },
    wrapUpUntil: { type: 'timestamptz', name: 'wrap_up_until', nullable: true },
    lastGivenAt: { type: 'timestamptz', name: 'last_given_at', nullable: true },
  },
});

export interface QueueEntryRow {
  id: string;
  tokenHash: Buffer;
  name: string;
  address: string;
  topic: string;
  language: Language;
  description: string;
  ticketRef: string | null;
  state: 'waiting' | 'taken' | 'left';
  since: Date;
  /** The latest that they were told as they came. */
  promisedAt: Date | null;
  wants: Wanted;
  isConfirmed: boolean;
  /** Where to call back when it is their turn; they need not keep the page open. */
  callBack: string | null;
  passedBy: string[];
  offeredTo: string | null;
  offerEndsAt: Date | null;
  technicianId: string | null;
  sessionId: string | null;
  closedAt: Date | null;
}
export const QueueEntryEntity = new EntitySchema<QueueEntryRow>({
  name: 'queue_entry',
  columns: {
    id: { type: 'uuid', primary: true },
    tokenHash: { type: 'bytea', name: 'token_hash' },
    name: { type: 'text' },
    address: { type: 'text' },
    topic: { type: 'text' },
    language: { type: 'text' },
    description: { type: 'text' },
    ticketRef: { type: 'text', name: 'ticket_ref', nullable: true },
    state: { type: 'text' },
    since: { type: 'timestamptz' },
    promisedAt: { type: 'timestamptz', name: 'promised_at', nullable: true },
    wants: { type: 'text' },
    isConfirmed: { type: 'boolean', name: 'is_confirmed' },
    callBack: { type: 'text', name: 'call_back', nullable: true },
    passedBy: { type: 'text', array: true, name: 'passed_by' },
    offeredTo: { type: 'text', name: 'offered_to', nullable: true },
    offerEndsAt: { type: 'timestamptz', name: 'offer_ends_at', nullable: true },
    closedAt: { type: 'timestamptz', name: 'closed_at', nullable: true },
    technicianId: { type: 'text', name: 'technician_id', nullable: true },
    sessionId: { type: 'uuid', name: 'session_id', nullable: true },
  },
  indices: [
    { name: 'queue_entry_state', columns: ['state'] },
    { name: 'queue_entry_token', columns: ['tokenHash'] },
  ],
});

/** What is said in the queue, before there is a session; it moves into the ledger with the session. */
export interface QueueMessageRow {
  id: string;
  entryId: string;
  at: Date;
  /** Null: the customer. */
  technicianId: string | null;
  text: string;
}
export const QueueMessageEntity = new EntitySchema<QueueMessageRow>({
  name: 'queue_message',
  columns: {
    id: { type: 'uuid', primary: true },
    entryId: { type: 'uuid', name: 'entry_id' },
    at: { type: 'timestamptz' },
    technicianId: { type: 'text', name: 'technician_id', nullable: true },
    text: { type: 'text' },
  },
  indices: [{ name: 'queue_message_entry', columns: ['entryId'] }],
});
