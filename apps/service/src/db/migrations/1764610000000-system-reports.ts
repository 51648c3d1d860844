import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What computers said of themselves, in the records of their sessions. */
export class SystemReports1764610000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "system_report" ("id" uuid NOT NULL, "session_id" uuid NOT NULL, "kept_at" timestamptz NOT NULL, "size_bytes" integer NOT NULL, "sha256" bytea NOT NULL, "sealed" bytea NOT NULL, "sealed_with" bytea NOT NULL, CONSTRAINT "system_report_pk" PRIMARY KEY ("id"))`,
    );
    await runner.query(`CREATE INDEX "system_report_of" ON "system_report" ("session_id", "kept_at")`);
    await runner.query(`CREATE INDEX "system_report_sealed_with" ON "system_report" ("sealed_with")`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`DROP TABLE "system_report"`);
  }
}
