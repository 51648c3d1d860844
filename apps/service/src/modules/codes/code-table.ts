import { EntitySchema } from 'typeorm';

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
