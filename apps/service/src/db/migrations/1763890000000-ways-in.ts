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
  `ALTER TABLE "technician" ADD "languages" text array NOT NULL DEFAULT '{en}', ADD "topics" text array NOT NULL DEFAULT '{}'`,
  `ALTER TABLE "technician" ALTER "languages" DROP DEFAULT, ALTER "topics" DROP DEFAULT`,
  `CREATE TABLE "technician_state" ("technician_id" text NOT NULL, "is_away" boolean NOT NULL, "here_until" timestamptz, "wrap_up_until" timestamptz, "last_given_at" timestamptz, CONSTRAINT "technician_state_pk" PRIMARY KEY ("technician_id"))`,
  `ALTER TABLE "queue_entry" ADD "wants" text NOT NULL DEFAULT 'screen', ADD "is_confirmed" boolean NOT NULL DEFAULT false, ADD "call_back" text, ADD "passed_by" text array NOT NULL DEFAULT '{}', ADD "offered_to" text, ADD "offer_ends_at" timestamptz, ADD "closed_at" timestamptz`,
  `ALTER TABLE "queue_entry" ALTER "wants" DROP DEFAULT, ALTER "is_confirmed" DROP DEFAULT, ALTER "passed_by" DROP DEFAULT`,
  `CREATE TABLE "queue_message" ("id" uuid NOT NULL, "entry_id" uuid NOT NULL, "at" timestamptz NOT NULL, "technician_id" text, "text" text NOT NULL, CONSTRAINT "queue_message_pk" PRIMARY KEY ("id"))`,
  `CREATE INDEX "queue_message_entry" ON "queue_message" ("entry_id")`,
  `CREATE TABLE "notice" ("id" uuid NOT NULL, "topic" text NOT NULL, "text" text NOT NULL, "ticket_ref" text, "technician_id" text NOT NULL, "me_too" integer NOT NULL, "at" timestamptz NOT NULL, "ended_at" timestamptz, CONSTRAINT "notice_pk" PRIMARY KEY ("id"))`,
  `CREATE TABLE "booking" ("id" uuid NOT NULL, "session_id" uuid NOT NULL, "invitation_id" uuid NOT NULL, "technician_id" text NOT NULL, "customer_name" text NOT NULL, "address" text NOT NULL, "telephone" text, "language" text NOT NULL, "purpose" text NOT NULL, "remark" text NOT NULL, "starts_at" timestamptz NOT NULL, "minutes" integer NOT NULL, "time_zone" text NOT NULL, "sequence" integer NOT NULL, "is_cancelled" boolean NOT NULL, "remind_minutes" integer array NOT NULL, "reminded" integer array NOT NULL, CONSTRAINT "booking_pk" PRIMARY KEY ("id"))`,
  `CREATE INDEX "booking_starts_at" ON "booking" ("starts_at")`,
];
const down = [
  `DROP TABLE "booking"`,
  `DROP TABLE "notice"`,
  `DROP TABLE "queue_message"`,
  `ALTER TABLE "queue_entry" DROP "closed_at", DROP "offer_ends_at", DROP "offered_to", DROP "passed_by", DROP "call_back", DROP "is_confirmed", DROP "wants"`,
  `DROP TABLE "technician_state"`,
  `ALTER TABLE "technician" DROP "topics", DROP "languages"`,
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
