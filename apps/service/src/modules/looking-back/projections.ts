import type { SessionEvent } from '@porch/core';
import type { Projection } from '../../module/projection.ts';
import type { SessionTieRow } from './looking-back-tables.ts';

/** What computers call themselves when nobody named them: it ties nothing to anything. */
const NO_NAMES = new Set(['localhost', 'unknown', '']);

type Tie = Pick<SessionTieRow, 'kind' | 'key'>;
const customer = (address: string | undefined): Tie[] =>
  address?.trim() ? [{ kind: 'customer', key: address.trim().toLowerCase() }] : [];
const device = (name: string | undefined): Tie[] => {
  const key = name?.trim().toLowerCase() ?? '';
  return NO_NAMES.has(key) ? [] : [{ kind: 'device', key }];
};

/** What an entry ties its session to. An older release told the customer with the preparing. */
export function tiesOf(event: SessionEvent): Tie[] {
  switch (event.type) {
    case 'sessionPrepared':
      return [
        ...customer(event.personal?.customerAddress),
        ...device(event.personal?.asset),
        ...device(event.deviceId),
      ];
    case 'customerExpected':
      return customer(event.personal?.customerAddress);
    case 'customerIntroduced':
      return customer(event.personal?.address);
    case 'participantJoined':
      return device(event.personal?.computer);
    default:
      return [];
  }
}

const ties: Projection = {
  name: 'ties',
  apply: ({ sessionId, preparedAtMs, entries }) => {
    const found = entries.flatMap(({ event }) => tiesOf(event));
    if (!found.length) return [];
    return [
      {
        sql: `INSERT INTO "session_tie" ("session_id", "kind", "key", "prepared_at") SELECT $1, k, v, $4 FROM unnest($2::text[], $3::text[]) t(k, v) ON CONFLICT DO NOTHING`,
        values: [sessionId, found.map(({ kind }) => kind), found.map(({ key }) => key), new Date(preparedAtMs)],
      },
    ];
  },
  clear: (sessionId) => [{ sql: `DELETE FROM "session_tie" WHERE "session_id" = $1`, values: [sessionId] }],
};

const notes: Projection = {
  name: 'notes',
  apply: ({ sessionId, entries }) =>
    entries.flatMap(({ event }) =>
      event.type === 'outcomeLogged' && event.personal?.note.trim()
        ? [
            {
              sql: `INSERT INTO "session_note" ("session_id", "note") VALUES ($1, $2) ON CONFLICT ("session_id") DO UPDATE SET "note" = excluded."note"`,
              values: [sessionId, event.personal.note],
            },
          ]
        : [],
    ),
  clear: (sessionId) => [{ sql: `DELETE FROM "session_note" WHERE "session_id" = $1`, values: [sessionId] }],
};

export const lookingBackProjections = [ties, notes] as const;
