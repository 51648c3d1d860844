import { isOver, type LedgerEntry } from '@porch/core';
import type { Projection, Statement } from '../../module/projection.ts';

const put = (sessionId: string, actId: string, kind: string, atMs: number): Statement => ({
  sql: `INSERT INTO "careful_act" ("session_id", "act_id", "kind", "asked_at") VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`,
  values: [sessionId, actId, kind, new Date(atMs)],
});
const take = (sessionId: string, actId: string, kind: string): Statement => ({
  sql: `DELETE FROM "careful_act" WHERE "session_id" = $1 AND "act_id" = $2 AND "kind" = $3`,
  values: [sessionId, actId, kind],
});

function statementsOf(sessionId: string, { event, atMs }: LedgerEntry): Statement[] {
  switch (event.type) {
    case 'risky-acts/asked':
      return [
        ...(event.needsSecond ? [put(sessionId, event.actId, 'second-yes', atMs)] : []),
        ...(event.isOverride ? [put(sessionId, event.actId, 'override', atMs)] : []),
      ];
    case 'risky-acts/answered':
      return [take(sessionId, event.actId, 'second-yes')];
    case 'risky-acts/lookedAt':
      return [take(sessionId, event.actId, 'override')];
    default:
      return [];
  }
}

/** Who waits for a yes waits no longer than their session; what is to be looked at stays until somebody did. */
export const carefulActs: Projection = {
  name: 'careful-acts',
  apply: ({ sessionId, entries, after }) => [
    ...entries.flatMap((entry) => statementsOf(sessionId, entry)),
    ...(isOver(after)
      ? [{ sql: `DELETE FROM "careful_act" WHERE "session_id" = $1 AND "kind" = 'second-yes'`, values: [sessionId] }]
      : []),
  ],
  clear: (sessionId) => [{ sql: `DELETE FROM "careful_act" WHERE "session_id" = $1`, values: [sessionId] }],
};
