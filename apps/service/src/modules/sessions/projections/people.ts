import type { SessionState } from '@porch/core';
import type { Projection } from '../../../module/projection.ts';

/** Those who may read a session for being of it: whoever leads it, was in it, or is let in. */
const technicianIdsIn = (state: SessionState): Set<string> =>
  new Set(
    [
      state.technicianId,
      ...Object.values(state.participants).map((p) => p.technicianId),
      ...Object.keys(state.letIn),
    ].filter((id) => id !== undefined),
  );

/** Whose session it is, who was in it, and who is let in. */
export const people: Projection = {
  name: 'people',
  apply: ({ sessionId, preparedAtMs, before, after }) => {
    const [known, now] = [technicianIdsIn(before), technicianIdsIn(after)];
    const added = [...now].filter((id) => !known.has(id));
    const gone = [...known].filter((id) => !now.has(id));
    return [
      ...(added.length
        ? [
            {
              sql: `INSERT INTO "session_person" ("session_id", "technician_id", "prepared_at") SELECT $1, t, $3 FROM unnest($2::text[]) t ON CONFLICT DO NOTHING`,
              values: [sessionId, added, new Date(preparedAtMs)],
            },
          ]
        : []),
      ...(gone.length
        ? [
            {
              sql: `DELETE FROM "session_person" WHERE "session_id" = $1 AND "technician_id" = ANY($2)`,
              values: [sessionId, gone],
            },
          ]
        : []),
    ];
  },
  clear: (sessionId) => [{ sql: `DELETE FROM "session_person" WHERE "session_id" = $1`, values: [sessionId] }],
};
