import type { MigrationInterface, QueryRunner } from 'typeorm';

const up = [
  `CREATE TABLE "once_answer" ("key_hash" bytea NOT NULL, "asked_hash" bytea NOT NULL, "sealed_answer" bytea, "session_id" uuid, "at" timestamptz NOT NULL, CONSTRAINT "once_answer_pk" PRIMARY KEY ("key_hash"))`,
  `CREATE INDEX "once_answer_session" ON "once_answer" ("session_id") WHERE "session_id" IS NOT NULL`,
  `CREATE INDEX "once_answer_at" ON "once_answer" ("at")`,
];
const down = [`DROP TABLE "once_answer"`];

/** Answers to what was asked with an Idempotency-Key. */
export class Once1764350000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of up) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of down) await runner.query(statement);
  }
}
