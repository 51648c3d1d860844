import type { MigrationInterface, QueryRunner } from 'typeorm';

const up = [
  `CREATE TABLE "technician_preferences" ("technician_id" text NOT NULL, "preferences" jsonb NOT NULL, "at" timestamptz NOT NULL, CONSTRAINT "technician_preferences_pk" PRIMARY KEY ("technician_id"))`,
];
const down = [`DROP TABLE "technician_preferences"`];

/** What technicians chose for themselves alone. */
export class Preferences1764480000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of up) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of down) await runner.query(statement);
  }
}
