import type { MigrationInterface, QueryRunner } from 'typeorm';

/** How far whoever runs this service lets new releases write. Records that are there were written at the first level. */
export class RecordsLevel1764300000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "records_level" ("id" integer NOT NULL DEFAULT 1, "level" integer NOT NULL DEFAULT 1, CONSTRAINT "records_level_pk" PRIMARY KEY ("id"), CONSTRAINT "records_level_one" CHECK ("id" = 1))`,
    );
    await runner.query(`INSERT INTO "records_level" DEFAULT VALUES`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`DROP TABLE "records_level"`);
  }
}
