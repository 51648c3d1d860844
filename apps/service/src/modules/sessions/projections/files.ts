import { abilitiesHanded, type SessionState } from '@porch/core';
import type { Projection } from '../../../module/projection.ts';

interface Arrived {
  readonly given: number;
  readonly givenBytes: number;
  readonly fetched: number;
  readonly fetchedBytes: number;
}

function arrivedIn({ slices, participants }: SessionState): Arrived {
  const arrived = abilitiesHanded(slices).filter(({ stage }) => stage === 'arrived');
  const [given, fetched] = (['desk', 'customer'] as const).map((side) =>
    arrived.filter(({ fromId }) => participants[fromId]?.side === side).map(({ sizeBytes }) => sizeBytes),
  );
  const sum = (sizes: readonly number[] = []) => sizes.reduce((a, b) => a + b, 0);
  return {
    given: given?.length ?? 0,
    givenBytes: sum(given),
    fetched: fetched?.length ?? 0,
    fetchedBytes: sum(fetched),
  };
}

/** How many files arrived each way, and how large they were. */
export const files: Projection = {
  name: 'files',
  apply: ({ sessionId, preparedAtMs, before, after }) => {
    // The usual change is none of files.
    if (before.slices === after.slices && before.participants === after.participants) return [];
    const { given, givenBytes, fetched, fetchedBytes } = arrivedIn(after);
    const was = arrivedIn(before);
    if (given === was.given && fetched === was.fetched) return [];
    return [
      {
        sql: `INSERT INTO "session_files" ("session_id", "given", "given_bytes", "fetched", "fetched_bytes", "prepared_at") VALUES ($1, $2, $3, $4, $5, $6)
              ON CONFLICT ("session_id") DO UPDATE SET "given" = excluded."given", "given_bytes" = excluded."given_bytes", "fetched" = excluded."fetched", "fetched_bytes" = excluded."fetched_bytes"`,
        values: [sessionId, given, givenBytes, fetched, fetchedBytes, new Date(preparedAtMs)],
      },
    ];
  },
  clear: (sessionId) => [{ sql: `DELETE FROM "session_files" WHERE "session_id" = $1`, values: [sessionId] }],
};
