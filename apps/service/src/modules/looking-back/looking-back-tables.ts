import { EntitySchema } from 'typeorm';

/** What a session has to do with: an address of its customer, a name of the device. Made from its ledger. */
export interface SessionTieRow {
  sessionId: string;
  kind: 'customer' | 'device';
  /** In small letters. */
  key: string;
  preparedAt: Date;
}
export const SessionTieEntity = new EntitySchema<SessionTieRow>({
  name: 'session_tie',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    kind: { type: 'text', primary: true },
    key: { type: 'text', primary: true },
    preparedAt: { type: 'timestamptz', name: 'prepared_at' },
  },
  indices: [{ name: 'session_tie_of', columns: ['kind', 'key', 'preparedAt', 'sessionId'] }],
});

/** What its technician wrote at the end, as it stands in the ledger. */
export interface SessionNoteRow {
  sessionId: string;
  note: string;
}
export const SessionNoteEntity = new EntitySchema<SessionNoteRow>({
  name: 'session_note',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    note: { type: 'text' },
  },
});
