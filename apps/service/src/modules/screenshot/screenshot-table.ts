import { EntitySchema } from 'typeorm';

/** A picture that was put into the records of its session, sealed. */
export interface ScreenshotRow {
  id: string;
  sessionId: string;
  keptAt: Date;
  sizeBytes: number;
  sha256: Buffer;
  sealed: Buffer;
  /** Which of the service's secrets: not the secret, and of no use without it. */
  sealedWith: Buffer;
}
export const ScreenshotEntity = new EntitySchema<ScreenshotRow>({
  name: 'screenshot',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    keptAt: { type: 'timestamptz', name: 'kept_at' },
    sizeBytes: { type: 'int', name: 'size_bytes' },
    sha256: { type: 'bytea' },
    sealed: { type: 'bytea', select: false },
    sealedWith: { type: 'bytea', name: 'sealed_with' },
  },
  indices: [{ name: 'screenshot_of_session', columns: ['sessionId'] }],
});
