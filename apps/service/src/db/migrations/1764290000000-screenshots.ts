import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Pictures that were put into the records of a session. */
export class Screenshots1764290000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "screenshot" ("id" uuid NOT NULL, "session_id" uuid NOT NULL, "kept_at" timestamptz NOT NULL, "size_bytes" integer NOT NULL, "sha256" bytea NOT NULL, "sealed" bytea NOT NULL, "sealed_with" bytea NOT NULL, CONSTRAINT "screenshot_pk" PRIMARY KEY ("id"))`,
    );
    await runner.query(`CREATE INDEX "screenshot_of_session" ON "screenshot" ("session_id")`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`DROP TABLE "screenshot"`);
  }
}
