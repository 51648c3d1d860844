import type { MigrationInterface, QueryRunner } from 'typeorm';

const up = [
  `CREATE TABLE "invitation" ("id" uuid NOT NULL, "session_id" uuid NOT NULL, "way" text NOT NULL, "sealed_token" bytea NOT NULL, "address" text, "language" text NOT NULL, "remark" text, "delivery" text NOT NULL, "why" text, "uses" integer NOT NULL, "uses_allowed" integer, "report_ref" text NOT NULL, "issued_at" timestamptz NOT NULL, "changed_at" timestamptz NOT NULL, "expires_at" timestamptz NOT NULL, CONSTRAINT "invitation_pk" PRIMARY KEY ("id"))`,
  `CREATE INDEX "invitation_session" ON "invitation" ("session_id")`,
  `CREATE UNIQUE INDEX "invitation_report_ref" ON "invitation" ("report_ref")`,
  `ALTER TABLE "door_pass" ADD "invitation_id" uuid`,
  `ALTER TABLE "outbox" ADD "given_up_at" timestamptz`,
  // Comments with a link in the clear are not kept any longer: what is sent is made when it is sent.
  `DELETE FROM "outbox" WHERE "kind" = 'comment'`,
  `ALTER TABLE "one_time_code" ADD "issued_at" timestamptz NOT NULL DEFAULT clock_timestamp()`,
  `ALTER TABLE "one_time_code" ALTER "issued_at" DROP DEFAULT`,
];
const down = [
  `ALTER TABLE "one_time_code" DROP "issued_at"`,
  `ALTER TABLE "outbox" DROP "given_up_at"`,
  `ALTER TABLE "door_pass" DROP "invitation_id"`,
  `DROP TABLE "invitation"`,
];

export class WaysIn1763890000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of up) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of down) await runner.query(statement);
  }
}
