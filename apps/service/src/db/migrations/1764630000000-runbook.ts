import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Actions that the desk prepared to be run at customers' computers. */
export class Runbook1764630000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "runbook_action" ("id" uuid NOT NULL, "owner" text NOT NULL, "name" text NOT NULL, "version" integer NOT NULL, "state" text NOT NULL, "scope" text NOT NULL, "team" text NOT NULL, "title" text NOT NULL, "topic" text, "kind" text NOT NULL, "text" text NOT NULL, "words" text NOT NULL, "author_id" text NOT NULL, "author_name" text NOT NULL, "written_at" timestamptz NOT NULL, "reviewer_name" text, "approver_name" text, CONSTRAINT "runbook_action_pk" PRIMARY KEY ("id"))`,
    );
    await runner.query(`CREATE UNIQUE INDEX "runbook_action_version" ON "runbook_action" ("owner", "name", "version")`);
    // Drafted and reviewed are one place: what is open. What is approved is another.
    await runner.query(
      `CREATE UNIQUE INDEX "runbook_action_current" ON "runbook_action" ("owner", "name", ("state" = 'approved')) WHERE "state" IN ('draft', 'reviewed', 'approved')`,
    );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`DROP TABLE "runbook_action"`);
  }
}
