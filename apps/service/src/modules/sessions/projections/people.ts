import type { SessionState } from '@porch/core';
import type { Projection } from '../../../module/projection.ts';

/** Technicians who ever led the session or were in it stay: reading it goes on being theirs. */
const technicianIdsIn = (state: SessionState): string[] =>
  [state.technicianId, ...Object.values(state.participants).map((p) => p.technicianId)].filter(
    (id) => id !== undefined,
  );

/** Whose session it is, and who was in it. */
export const people: Projection = {
  name: 'people',
  apply: ({ sessionId, preparedAtMs, before, after }) => {
    const known = new Set(technicianIdsIn(before));
    const added = [...new Set(technicianIdsIn(after))].filter((id) => !known.has(id));
    if (!added.length) return [];
    return [
      {
        sql: `INSERT INTO "session_person" ("session_id", "technician_id", "prepared_at") SELECT $1, t, $3 FROM unnest($2::text[]) t ON CONFLICT DO NOTHING`,
        values: [sessionId, added, new Date(preparedAtMs)],
      },
    ];
  },
  clear: (sessionId) => [{ sql: `DELETE FROM "session_person" WHERE "session_id" = $1`, values: [sessionId] }],
};
