import { EntitySchema } from 'typeorm';

export interface OnceRow {
  /** Of the key, whose it is and what it was for: the key itself is kept nowhere. */
  keyHash: Buffer;
  askedHash: Buffer;
  /** Null while it is being done. */
  sealedAnswer: Buffer | null;
  sessionId: string | null;
  at: Date;
}
export const OnceEntity = new EntitySchema<OnceRow>({
  name: 'once_answer',
  columns: {
    keyHash: { type: 'bytea', primary: true, name: 'key_hash' },
    askedHash: { type: 'bytea', name: 'asked_hash' },
    sealedAnswer: { type: 'bytea', name: 'sealed_answer', nullable: true },
    sessionId: { type: 'uuid', name: 'session_id', nullable: true },
    at: { type: 'timestamptz' },
  },
  indices: [
    { name: 'once_answer_session', columns: ['sessionId'], where: '"session_id" IS NOT NULL' },
    { name: 'once_answer_at', columns: ['at'] },
  ],
});
