import type { MigrationInterface, QueryRunner } from 'typeorm';

const up = [
  `CREATE TABLE "session_tie" ("session_id" uuid NOT NULL, "kind" text NOT NULL, "key" text NOT NULL, "prepared_at" timestamptz NOT NULL, CONSTRAINT "session_tie_pk" PRIMARY KEY ("session_id", "kind", "key"))`,
  `CREATE INDEX "session_tie_of" ON "session_tie" ("kind", "key", "prepared_at", "session_id")`,
  `CREATE TABLE "session_note" ("session_id" uuid NOT NULL, "note" text NOT NULL, CONSTRAINT "session_note_pk" PRIMARY KEY ("session_id"))`,
  // What was there before is made anew in the background.
  `UPDATE "session" SET "behind_in" = array_cat("behind_in", ARRAY['ties', 'notes'])`,
  `CREATE TABLE "knowledge_note" ("id" uuid NOT NULL, "name" text NOT NULL, "language" text NOT NULL, "version" integer NOT NULL, "state" text NOT NULL, "topic" text, "labels" text array NOT NULL, "title" text NOT NULL, "text" text NOT NULL, "author_id" text NOT NULL, "author_name" text NOT NULL, "written_at" timestamptz NOT NULL, "reviewer_id" text, "reviewer_name" text, "reviewed_at" timestamptz, "words" tsvector NOT NULL, CONSTRAINT "knowledge_note_pk" PRIMARY KEY ("id"))`,
  `CREATE UNIQUE INDEX "knowledge_note_version" ON "knowledge_note" ("name", "language", "version")`,
  `CREATE UNIQUE INDEX "knowledge_note_current" ON "knowledge_note" ("name", "language", "state") WHERE "state" IN ('draft', 'reviewed')`,
  `CREATE INDEX "knowledge_note_words" ON "knowledge_note" USING gin ("words")`,
];
const down = [
  `DROP TABLE "knowledge_note"`,
  `DROP TABLE "session_note"`,
  `DROP TABLE "session_tie"`,
  `UPDATE "session" SET "behind_in" = array_remove(array_remove("behind_in", 'ties'), 'notes')`,
];

/** What is looked up beside a session: what was before, and what the desk wrote down about faults. */
export class LookingUp1764600000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of up) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of down) await runner.query(statement);
  }
}
