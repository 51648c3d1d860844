import type { Projection } from '../../../module/projection.ts';

/** What was ever allowed in a session. */
export const permissions: Projection = {
  name: 'permissions',
  apply: ({ sessionId, preparedAtMs, entries }) => {
    const granted = entries.flatMap(({ event }) => (event.type === 'permissionGranted' ? [event.permission] : []));
    if (!granted.length) return [];
    return [
      {
        sql: `INSERT INTO "session_permission" ("session_id", "permission", "prepared_at") SELECT $1, p, $3 FROM unnest($2::text[]) p ON CONFLICT DO NOTHING`,
        values: [sessionId, [...new Set(granted)], new Date(preparedAtMs)],
      },
    ];
  },
  clear: (sessionId) => [{ sql: `DELETE FROM "session_permission" WHERE "session_id" = $1`, values: [sessionId] }],
};
