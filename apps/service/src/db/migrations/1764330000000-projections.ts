import type { MigrationInterface, QueryRunner } from 'typeorm';

const up = [
  `CREATE TABLE "session_person" ("session_id" uuid NOT NULL, "technician_id" text NOT NULL, "prepared_at" timestamptz NOT NULL, CONSTRAINT "session_person_pk" PRIMARY KEY ("session_id", "technician_id"))`,
  // Their own at once, so that nobody misses them; all the rest is made in the background, the newest first.
  `INSERT INTO "session_person" SELECT "id", "technician_id", "prepared_at" FROM "session" WHERE "technician_id" <> ''`,
  `CREATE INDEX "session_person_of" ON "session_person" ("technician_id", "prepared_at", "session_id")`,
  `CREATE TABLE "session_permission" ("session_id" uuid NOT NULL, "permission" text NOT NULL, "prepared_at" timestamptz NOT NULL, CONSTRAINT "session_permission_pk" PRIMARY KEY ("session_id", "permission"))`,
  `CREATE INDEX "session_permission_of" ON "session_permission" ("permission", "prepared_at", "session_id")`,
  `CREATE TABLE "session_files" ("session_id" uuid NOT NULL, "given" integer NOT NULL, "given_bytes" bigint NOT NULL, "fetched" integer NOT NULL, "fetched_bytes" bigint NOT NULL, "prepared_at" timestamptz NOT NULL, CONSTRAINT "session_files_pk" PRIMARY KEY ("session_id"))`,
  `CREATE INDEX "session_files_at" ON "session_files" ("prepared_at", "session_id")`,
  `CREATE TABLE "session_words" ("session_id" uuid NOT NULL, "words" tsvector NOT NULL, CONSTRAINT "session_words_pk" PRIMARY KEY ("session_id"))`,
  `CREATE INDEX "session_words_in" ON "session_words" USING gin ("words")`,
  `CREATE TABLE "session_snapshot" ("session_id" uuid NOT NULL, "seq" integer NOT NULL, "program" text NOT NULL, "state" text NOT NULL, CONSTRAINT "session_snapshot_pk" PRIMARY KEY ("session_id"))`,
  // Up to which entry all of these follow a session's ledger, and which of them do not: an older release moves neither. What
  // is behind is made anew in the background, and so is everything of what was there before.
  `ALTER TABLE "session" ADD "projected_seq" integer NOT NULL DEFAULT 0, ADD "behind_in" text array NOT NULL DEFAULT '{}'`,
  `CREATE INDEX "session_behind" ON "session" ("prepared_at", "id") WHERE "projected_seq" <> "seq" OR "behind_in" <> '{}'`,
  `CREATE INDEX "session_prepared_at" ON "session" ("prepared_at", "id")`,
  `CREATE INDEX "session_of" ON "session" ("technician_id", "prepared_at", "id")`,
  `CREATE INDEX "session_outcome" ON "session" ("outcome", "prepared_at", "id")`,
  `CREATE INDEX "session_in_phase" ON "session" ("phase", "prepared_at", "id")`,
  `CREATE INDEX "session_ticket" ON "session" (lower("ticket_ref"), "prepared_at", "id")`,
  `CREATE INDEX "session_handover_to" ON "session" ("handover_to") WHERE "handover_to" IS NOT NULL`,
];
const down = [
  `DROP INDEX "session_handover_to"`,
  `DROP INDEX "session_ticket"`,
  `DROP INDEX "session_in_phase"`,
  `DROP INDEX "session_outcome"`,
  `DROP INDEX "session_of"`,
  `DROP INDEX "session_prepared_at"`,
  `DROP INDEX "session_behind"`,
  `ALTER TABLE "session" DROP "behind_in", DROP "projected_seq"`,
  `DROP TABLE "session_snapshot"`,
  `DROP TABLE "session_words"`,
  `DROP TABLE "session_files"`,
  `DROP TABLE "session_permission"`,
  `DROP TABLE "session_person"`,
];

/** What is kept beside ledgers: to be looked up, with the indexes that lists stand on, and to go on without reading them. */
export class Projections1764330000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of up) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of down) await runner.query(statement);
  }
}
