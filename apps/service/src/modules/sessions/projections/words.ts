import { wordsOf } from '@porch/core';
import type { Projection } from '../../../module/projection.ts';

/** A session that has so many is found by them; the words of later entries are not added. Far below what a tsvector holds. */
export const MAX_SESSION_WORDS = 3_000;

/** The words by which a session is found. Whoever erases a person has the rest made anew. */
export const words: Projection = {
  name: 'words',
  apply: ({ sessionId, entries }) => {
    const [first] = entries;
    if (first?.seq === 1) {
      const all = new Set<string>();
      for (const { event } of entries)
        if (all.size < MAX_SESSION_WORDS) for (const word of wordsOf(event)) all.add(word);
      return [
        {
          sql: `INSERT INTO "session_words" ("session_id", "words") VALUES ($1, array_to_tsvector($2::text[]))`,
          values: [sessionId, [...all]],
        },
      ];
    }
    return entries
      .map(({ event }) => wordsOf(event))
      .filter((said) => said.length > 0)
      .map((said) => ({
        sql: `UPDATE "session_words" SET "words" = "words" || array_to_tsvector($2::text[]) WHERE "session_id" = $1 AND length("words") < $3`,
        values: [sessionId, said, MAX_SESSION_WORDS],
      }));
  },
  clear: (sessionId) => [{ sql: `DELETE FROM "session_words" WHERE "session_id" = $1`, values: [sessionId] }],
};
