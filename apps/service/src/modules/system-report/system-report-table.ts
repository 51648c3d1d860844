import { EntitySchema } from 'typeorm';

/** What a computer said of itself, in the records of its session; sealed. */
export interface SystemReportRow {
  id: string;
  sessionId: string;
  keptAt: Date;
  sizeBytes: number;
  sha256: Buffer;
  sealed: Buffer;
  /** Tells the secret that it was sealed with. */
  sealedWith: Buffer;
}
export const SystemReportEntity = new EntitySchema<SystemReportRow>({
  name: 'system_report',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    keptAt: { type: 'timestamptz', name: 'kept_at' },
    sizeBytes: { type: 'int', name: 'size_bytes' },
    sha256: { type: 'bytea' },
    sealed: { type: 'bytea' },
    sealedWith: { type: 'bytea', name: 'sealed_with' },
  },
  indices: [
    { name: 'system_report_of', columns: ['sessionId', 'keptAt'] },
    { name: 'system_report_sealed_with', columns: ['sealedWith'] },
  ],
});
