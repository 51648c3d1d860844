import { abilitiesHanded, type SessionState } from '@porch/core';
import type { Projection, Statement } from '../../../module/projection.ts';

interface Arrived {
  readonly count: number;
  readonly sizeBytes: number;
}

function arrivedIn(state: SessionState, isToCustomer: boolean): Arrived {
  const arrived = abilitiesHanded(state.slices).filter(
    ({ stage, fromId }) => stage === 'arrived' && (state.participants[fromId]?.side === 'desk') === isToCustomer,
  );
  return { count: arrived.length, sizeBytes: arrived.reduce((sum, file) => sum + file.sizeBytes, 0) };
}

/** How many files arrived each way, and how large they were. */
export const files: Projection = {
  name: 'files',
  apply: ({ sessionId, preparedAtMs, before, after }) => {
    // The usual change is none of files.
    if (before.slices === after.slices) return [];
    return [true, false].flatMap((isToCustomer): Statement[] => {
      const now = arrivedIn(after, isToCustomer);
      if (now.count === arrivedIn(before, isToCustomer).count) return [];
      return [
        {
          sql: `INSERT INTO "session_files" ("session_id", "is_to_customer", "count", "size_bytes", "prepared_at") VALUES ($1, $2, $3, $4, $5)
                ON CONFLICT ("session_id", "is_to_customer") DO UPDATE SET "count" = excluded."count", "size_bytes" = excluded."size_bytes"`,
          values: [sessionId, isToCustomer, now.count, now.sizeBytes, new Date(preparedAtMs)],
        },
      ];
    });
  },
  clear: (sessionId) => [{ sql: `DELETE FROM "session_files" WHERE "session_id" = $1`, values: [sessionId] }],
};
