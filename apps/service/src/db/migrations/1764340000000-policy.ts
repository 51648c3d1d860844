import type { MigrationInterface, QueryRunner } from 'typeorm';

const up = [
  // Every value that was ever set stays, so that it can be said what counted when, and who said so. No value: given back.
  `CREATE TABLE "setting" ("name" text NOT NULL, "team" text NOT NULL, "version" integer NOT NULL, "since" timestamptz NOT NULL, "set_by" text NOT NULL, "value" jsonb, CONSTRAINT "setting_pk" PRIMARY KEY ("name", "team", "version"))`,
  `CREATE TABLE "topic" ("topic" text NOT NULL, "place" integer NOT NULL, "words" jsonb NOT NULL, "team" text, "skills" text array NOT NULL, CONSTRAINT "topic_pk" PRIMARY KEY ("topic"))`,
  `CREATE TABLE "team" ("name" text NOT NULL, CONSTRAINT "team_pk" PRIMARY KEY ("name"))`,
  `INSERT INTO "team" SELECT DISTINCT "team" FROM "technician" UNION SELECT 'Desk'`,
];
const down = [`DROP TABLE "team"`, `DROP TABLE "topic"`, `DROP TABLE "setting"`];

/** What the desk has set, its topics and its teams: as rows, so that nothing of it needs a restart. */
export class Policy1764340000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of up) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of down) await runner.query(statement);
  }
}
