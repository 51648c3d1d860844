import { EntitySchema } from 'typeorm';

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
  /** Up to which entry what is kept beside it follows; unlike `seq`, all of it is behind. */
  projectedSeq: number;
  /** What of it does not, by name: it was at fault, or is new. */
  behindIn: string[];
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
    projectedSeq: { type: 'int', name: 'projected_seq', default: 0 },
    behindIn: { type: 'text', array: true, name: 'behind_in', default: () => "'{}'" },
  },
  indices: [
    { name: 'session_changed_at', columns: ['changedAt'] },
    { name: 'session_device', columns: ['deviceId'] },
    { name: 'session_phase', columns: ['phase', 'changedAt'] },
    { name: 'session_prepared_at', columns: ['preparedAt', 'id'] },
    { name: 'session_of', columns: ['technicianId', 'preparedAt', 'id'] },
    { name: 'session_outcome', columns: ['outcome', 'preparedAt', 'id'] },
    { name: 'session_in_phase', columns: ['phase', 'preparedAt', 'id'] },
    // Of some rows or of what is worked out from them: these the migrations alone can say.
    { name: 'session_behind', synchronize: false },
    { name: 'session_ticket', synchronize: false },
    { name: 'session_handover_to', synchronize: false },
  ],
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
