import { EntitySchema } from 'typeorm';

/** What was true of a session after so many entries, so that not all of them need be read to go on. */
export interface SnapshotRow {
  sessionId: string;
  seq: number;
  /** Which program made it: another one makes its own. */
  program: string;
  /** As JSON; as text, so that whatever somebody wrote can stand in it. */
  state: string;
}
export const SnapshotEntity = new EntitySchema<SnapshotRow>({
  name: 'session_snapshot',
  columns: {
    sessionId: { type: 'uuid', primary: true, name: 'session_id' },
    seq: { type: 'int' },
    program: { type: 'text' },
    state: { type: 'text' },
  },
});
