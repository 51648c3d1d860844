import type { Delivery, InvitationWay, Language, Permission, Proof, Wanted } from '@porch/core';
import { EntitySchema } from 'typeorm';
import { OwnerEntity } from './owner-entity.ts';
import { ScreenshotEntity } from '../modules/screenshot/screenshot-entity.ts';

/* Rows as they are stored. Nothing outside db/ and the stores sees them; the rest works with plain domain types. */

export interface TechnicianRow {
  id: string;
  name: string;
  email: string;
  team: string;
  role: 'technician' | 'trainee' | 'lead';
  languages: Language[];
  /** Topics they know; none: all. */
  topics: string[];
  /** What they know beyond that: some topics ask for it. */
  skills: string[];
  passwordHash: string;
  /** Since then they may not sign in, and nothing of theirs is open. */
  disabledAt: Date | null;
}
export const TechnicianEntity = new EntitySchema<TechnicianRow>({
  name: 'technician',
  columns: {
    id: { type: 'text', primary: true },
    name: { type: 'text' },
    email: { type: 'text', unique: true },
    team: { type: 'text' },
    role: { type: 'text' },
    languages: { type: 'text', array: true },
    topics: { type: 'text', array: true },
    skills: { type: 'text', array: true },
    passwordHash: { type: 'text', name: 'password_hash' },
    disabledAt: { type: 'timestamptz', name: 'disabled_at', nullable: true },
  },
});

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

export interface SignInRow {
  tokenHash: Buffer;
  /** What it is called when it is listed and ended; no secret. */
  id: string;
  begunAt: Date;
  address: string;
  /** What the browser or the program says it is. */
  program: string;
  technicianId: string;
  expiresAt: Date;
}
export const SignInEntity = new EntitySchema<SignInRow>({
  name: 'sign_in',
  columns: {
    tokenHash: { type: 'bytea', primary: true, name: 'token_hash' },
    id: { type: 'uuid' },
    begunAt: { type: 'timestamptz', name: 'begun_at' },
    address: { type: 'text' },
    program: { type: 'text' },
    technicianId: { type: 'text', name: 'technician_id' },
    expiresAt: { type: 'timestamptz', name: 'expires_at' },
  },
  indices: [{ name: 'sign_in_technician', columns: ['technicianId'] }],
});

export interface SessionRow {
  id: string;
  seq: number;
  head: Buffer;
  asideSeq: number;
  asideHead: Buffer;
  phase: 'prepared' | 'joining' | 'live' | 'ended' | 'logged';
  ticketRef: string | null;
  technicianId: string;
  technicianName: string;
  purpose: string;
  customerName: string | null;
  behind: 'ticket' | 'queue-entry' | 'device' | 'nothing';
  deviceId: string | null;
  /** Whether anything was ever allowed in it: then it is more than a chat. */
  hasGrants: boolean;
  outcome: string | null;
  minutes: number;
  /** Who a handover is offered to, so that the porch can show it. */
  handoverTo: string | null;
  /** How many participants have not left. */
  present: number;
  preparedAt: Date;
  changedAt: Date;
}
export const SessionEntity = new EntitySchema<SessionRow>({
  name: 'session',
  columns: {
    id: { type: 'uuid', primary: true },
    seq: { type: 'int' },
    head: { type: 'bytea' },
    asideSeq: { type: 'int', name: 'aside_seq' },
    asideHead: { type: 'bytea', name: 'aside_head' },
    phase: { type: 'text' },
    ticketRef: { type: 'text', name: 'ticket_ref', nullable: true },
    technicianId: { type: 'text', name: 'technician_id' },
    technicianName: { type: 'text', name: 'technician_name' },
    purpose: { type: 'text' },
    customerName: { type: 'text', name: 'customer_name', nullable: true },
    behind: { type: 'text' },
    deviceId: { type: 'uuid', name: 'device_id', nullable: true },
    hasGrants: { type: 'boolean', name: 'has_grants' },
    outcome: { type: 'text', nullable: true },
    minutes: { type: 'int' },
    handoverTo: { type: 'text', name: 'handover_to', nullable: true },
    present: { type: 'int' },
    preparedAt: { type: 'timestamptz', name: 'prepared_at' },
    changedAt: { type: 'timestamptz', name: 'changed_at' },
  },
  indices: [
    { name: 'session_changed_at', columns: ['changedAt'] },
    { name: 'session_device', columns: ['deviceId'] },
    { name: 'session_phase', columns: ['phase', 'changedAt'] },
  ],
});

/** A device with a standing consent: what the customer made at the device, as Doorstep told it. Its secret is not here. */
export interface DeviceRow {
  id: string;
  name: string;
  /** Hex, Ed25519: the device shows itself with it. */
  signKey: string;
  customerName: string;
  customerAddress: string;
  language: Language;
  allowed: Permission[];
  asksEachVisit: boolean;
  madeInSession: string;
  madeAt: Date;
  untilAt: Date;
  seenAt: Date | null;
  endedAt: Date | null;
  endedHow: 'at-the-device' | 'by-the-desk' | 'ran-out' | null;
}
export const DeviceEntity = new EntitySchema<DeviceRow>({
  name: 'device',
  columns: {
    id: { type: 'uuid', primary: true },
    name: { type: 'text' },
    signKey: { type: 'text', name: 'sign_key' },
    customerName: { type: 'text', name: 'customer_name' },
    customerAddress: { type: 'text', name: 'customer_address' },
    language: { type: 'text' },
    allowed: { type: 'text', array: true },
    asksEachVisit: { type: 'boolean', name: 'asks_each_visit' },
    madeInSession: { type: 'uuid', name: 'made_in_session' },
    madeAt: { type: 'timestamptz', name: 'made_at' },
    untilAt: { type: 'timestamptz', name: 'until_at' },
    seenAt: { type: 'timestamptz', name: 'seen_at', nullable: true },
    endedAt: { type: 'timestamptz', name: 'ended_at', nullable: true },
    endedHow: { type: 'text', name: 'ended_how', nullable: true },
  },
});

export interface LedgerRowRow {
  sessionId: string;
  /** The session's own chain, or the technicians' asides. */
  chain: 'session' | 'aside';
  seq: number;
  header: Buffer;
  salt: Buffer | null;
  body: Buffer | null;
  bodyHash: Buffer;
  hash: Buffer;
}
export const LedgerRowEntity = new EntitySchema<LedgerRowRow>({
  name: 'ledger_row',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    chain: { type: 'text', primary: true },
    seq: { type: 'int', primary: true },
    header: { type: 'bytea' },
    salt: { type: 'bytea', nullable: true },
    body: { type: 'bytea', nullable: true },
    bodyHash: { type: 'bytea', name: 'body_hash' },
    hash: { type: 'bytea' },
  },
});

export interface CommandAnswerRow {
  sessionId: string;
  sender: string;
  commandId: string;
  /** Null when it was accepted. */
  refused: string | null;
}
export const CommandAnswerEntity = new EntitySchema<CommandAnswerRow>({
  name: 'command_answer',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    sender: { type: 'text', primary: true },
    commandId: { type: 'uuid', primary: true, name: 'command_id' },
    refused: { type: 'text', nullable: true },
  },
  indices: [{ name: 'command_answer_id', columns: ['sessionId', 'commandId'] }],
});

export interface CodeRow {
  id: string;
  sessionId: string;
  technicianId: string;
  /** Keyed hash of the digits: found without being readable. */
  lookup: Buffer;
  /** The digits, encrypted with the service's secret, so that the technician can be shown them again. */
  sealedDigits: Buffer;
  state: 'free' | 'used' | 'withdrawn';
  seats: string[];
  issuedAt: Date;
  expiresAt: Date;
}
export const CodeEntity = new EntitySchema<CodeRow>({
  name: 'one_time_code',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    technicianId: { type: 'text', name: 'technician_id' },
    lookup: { type: 'bytea' },
    sealedDigits: { type: 'bytea', name: 'sealed_digits' },
    state: { type: 'text' },
    seats: { type: 'text', array: true },
    issuedAt: { type: 'timestamptz', name: 'issued_at' },
    expiresAt: { type: 'timestamptz', name: 'expires_at' },
  },
  indices: [
    { name: 'one_time_code_lookup', columns: ['lookup'] },
    { name: 'one_time_code_session', columns: ['sessionId'] },
  ],
});

export interface DoorPassRow {
  tokenHash: Buffer;
  sessionId: string;
  role: 'customer-page' | 'doorstep' | 'invitation';
  /** How its bearer came by it: told in the ledger when they come in. */
  way: string;
  /** The invitation it belongs to, whose uses and withdrawal count. */
  invitationId: string | null;
  /** Joining by it takes it away: what a download knows of its session. */
  isSingleUse: boolean;
  /** What it was made from: it dies with it. */
  parentHash: Buffer | null;
  /** What whoever comes in by it has shown of who they are. */
  proof: Proof | null;
  /** Who came in by it: from then on it is theirs. */
  participantId: string | null;
  /** The customer has accepted: nobody else comes in by it. */
  isClosed: boolean;
  expiresAt: Date;
}
export const DoorPassEntity = new EntitySchema<DoorPassRow>({
  name: 'door_pass',
  columns: {
    tokenHash: { type: 'bytea', primary: true, name: 'token_hash' },
    sessionId: { type: 'uuid', name: 'session_id' },
    role: { type: 'text' },
    way: { type: 'text' },
    invitationId: { type: 'uuid', name: 'invitation_id', nullable: true },
    isSingleUse: { type: 'boolean', name: 'is_single_use' },
    parentHash: { type: 'bytea', name: 'parent_hash', nullable: true },
    proof: { type: 'text', nullable: true },
    participantId: { type: 'uuid', name: 'participant_id', nullable: true },
    isClosed: { type: 'boolean', name: 'is_closed' },
    expiresAt: { type: 'timestamptz', name: 'expires_at' },
  },
  indices: [
    { name: 'door_pass_session', columns: ['sessionId'] },
    { name: 'door_pass_parent', columns: ['parentHash'] },
  ],
});

export interface InvitationRow {
  id: string;
  sessionId: string;
  way: InvitationWay;
  /** The link's token, encrypted with the service's secret: to be copied, sent and drawn again. */
  sealedToken: Buffer;
  address: string | null;
  language: Language;
  remark: string | null;
  delivery: Delivery['name'];
  why: string | null;
  uses: number;
  usesAllowed: number | null;
  /** What gateways say about their delivery report: who does not know it cannot report. */
  reportRef: string;
  issuedAt: Date;
  changedAt: Date;
  expiresAt: Date;
}
export const InvitationEntity = new EntitySchema<InvitationRow>({
  name: 'invitation',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    way: { type: 'text' },
    sealedToken: { type: 'bytea', name: 'sealed_token' },
    address: { type: 'text', nullable: true },
    language: { type: 'text' },
    remark: { type: 'text', nullable: true },
    delivery: { type: 'text' },
    why: { type: 'text', nullable: true },
    uses: { type: 'int' },
    usesAllowed: { type: 'int', name: 'uses_allowed', nullable: true },
    reportRef: { type: 'text', name: 'report_ref' },
    issuedAt: { type: 'timestamptz', name: 'issued_at' },
    changedAt: { type: 'timestamptz', name: 'changed_at' },
    expiresAt: { type: 'timestamptz', name: 'expires_at' },
  },
  indices: [
    { name: 'invitation_session', columns: ['sessionId'] },
    { name: 'invitation_report_ref', columns: ['reportRef'], unique: true },
  ],
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

/** A known fault, said on the request page before anybody types. */
export interface KnownFaultRow {
  id: string;
  topic: string;
  text: string;
  ticketRef: string | null;
  technicianId: string;
  happensToCount: number;
  at: Date;
  endedAt: Date | null;
}
export const KnownFaultEntity = new EntitySchema<KnownFaultRow>({
  name: 'known_fault',
  columns: {
    id: { type: 'uuid', primary: true },
    topic: { type: 'text' },
    text: { type: 'text' },
    ticketRef: { type: 'text', name: 'ticket_ref', nullable: true },
    technicianId: { type: 'text', name: 'technician_id' },
    happensToCount: { type: 'int', name: 'happens_to_count' },
    at: { type: 'timestamptz' },
    endedAt: { type: 'timestamptz', name: 'ended_at', nullable: true },
  },
});

export interface BookingRow {
  id: string;
  sessionId: string;
  invitationId: string;
  technicianId: string;
  customerName: string;
  address: string;
  telephone: string | null;
  language: Language;
  purpose: string;
  remark: string;
  startsAt: Date;
  minutes: number;
  /** The customer's: what they are told is meant there. */
  timeZone: string;
  sequence: number;
  isCancelled: boolean;
  remindMinutes: number[];
  reminded: number[];
}
export const BookingEntity = new EntitySchema<BookingRow>({
  name: 'booking',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    invitationId: { type: 'uuid', name: 'invitation_id' },
    technicianId: { type: 'text', name: 'technician_id' },
    customerName: { type: 'text', name: 'customer_name' },
    address: { type: 'text' },
    telephone: { type: 'text', nullable: true },
    language: { type: 'text' },
    purpose: { type: 'text' },
    remark: { type: 'text' },
    startsAt: { type: 'timestamptz', name: 'starts_at' },
    minutes: { type: 'int' },
    timeZone: { type: 'text', name: 'time_zone' },
    sequence: { type: 'int' },
    isCancelled: { type: 'boolean', name: 'is_cancelled' },
    remindMinutes: { type: 'int', array: true, name: 'remind_minutes' },
    reminded: { type: 'int', array: true },
  },
  indices: [{ name: 'booking_starts_at', columns: ['startsAt'] }],
});

export interface AttemptRow {
  bucket: string;
  windowStart: Date;
  count: number;
}
export const AttemptEntity = new EntitySchema<AttemptRow>({
  name: 'attempt',
  columns: {
    bucket: { type: 'text', primary: true },
    windowStart: { type: 'timestamptz', name: 'window_start' },
    count: { type: 'int' },
  },
});

export interface OutboxRow {
  id: string;
  sessionId: string;
  kind: 'outcome' | 'newTicket' | 'invitation' | 'remark' | 'booking';
  payload: Record<string, unknown>;
  attempts: number;
  nextAt: Date;
  deliveredAt: Date | null;
  /** When it was clear that it will never arrive. */
  givenUpAt: Date | null;
  lastError: string | null;
}
export const OutboxEntity = new EntitySchema<OutboxRow>({
  name: 'outbox',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    kind: { type: 'text' },
    payload: { type: 'jsonb' },
    attempts: { type: 'int' },
    nextAt: { type: 'timestamptz', name: 'next_at' },
    deliveredAt: { type: 'timestamptz', name: 'delivered_at', nullable: true },
    givenUpAt: { type: 'timestamptz', name: 'given_up_at', nullable: true },
    lastError: { type: 'text', name: 'last_error', nullable: true },
  },
  indices: [{ name: 'outbox_due', columns: ['nextAt'] }],
});

export interface WebhookRow {
  deliveryId: string;
  at: Date;
}
export const WebhookEntity = new EntitySchema<WebhookRow>({
  name: 'webhook_seen',
  columns: { deliveryId: { type: 'text', primary: true, name: 'delivery_id' }, at: { type: 'timestamptz' } },
});

export const entities = [
  TechnicianEntity,
  SignInEntity,
  SessionEntity,
  DeviceEntity,
  LedgerRowEntity,
  CommandAnswerEntity,
  CodeEntity,
  DoorPassEntity,
  InvitationEntity,
  QueueEntryEntity,
  QueueMessageEntity,
  KnownFaultEntity,
  BookingEntity,
  TechnicianStateEntity,
  AttemptEntity,
  OutboxEntity,
  WebhookEntity,
  OwnerEntity,
  ScreenshotEntity,
];
