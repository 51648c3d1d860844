import type { MigrationInterface, QueryRunner } from 'typeorm';

/** When work that is done again and again is due, so that several processes do it once. */
export class SharedRounds1764320000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "round" ("what" text NOT NULL, "due_at" timestamptz NOT NULL, "held_until" timestamptz, "failures" integer NOT NULL, "last_error" text, CONSTRAINT "round_pk" PRIMARY KEY ("what"))`,
    );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`DROP TABLE "round"`);
  }
}
