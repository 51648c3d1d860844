import type { MigrationInterface, QueryRunner } from 'typeorm';

const statements = [
  `CREATE TABLE "technician" ("id" text NOT NULL, "name" text NOT NULL, "email" text NOT NULL, "team" text NOT NULL, "role" text NOT NULL, "password_hash" text NOT NULL, CONSTRAINT "technician_pk" PRIMARY KEY ("id"), CONSTRAINT "technician_email" UNIQUE ("email"))`,
  `CREATE TABLE "sign_in" ("token_hash" bytea NOT NULL, "technician_id" text NOT NULL, "expires_at" timestamptz NOT NULL, CONSTRAINT "sign_in_pk" PRIMARY KEY ("token_hash"))`,
  `CREATE TABLE "session" ("id" uuid NOT NULL, "seq" integer NOT NULL, "head" bytea NOT NULL, "aside_seq" integer NOT NULL, "aside_head" bytea NOT NULL, "phase" text NOT NULL, "ticket_ref" text, "technician_id" text NOT NULL, "technician_name" text NOT NULL, "purpose" text NOT NULL, "customer_name" text, "behind" text NOT NULL, "outcome" text, "minutes" integer NOT NULL, "handover_to" text, "prepared_at" timestamptz NOT NULL, "changed_at" timestamptz NOT NULL, CONSTRAINT "session_pk" PRIMARY KEY ("id"))`,
  `CREATE INDEX "session_changed_at" ON "session" ("changed_at")`,
  `CREATE TABLE "ledger_row" ("session_id" uuid NOT NULL, "chain" text NOT NULL, "seq" integer NOT NULL, "header" bytea NOT NULL, "salt" bytea, "body" bytea, "body_hash" bytea NOT NULL, "hash" bytea NOT NULL, CONSTRAINT "ledger_row_pk" PRIMARY KEY ("session_id", "chain", "seq"))`,
  `CREATE TABLE "command_answer" ("session_id" uuid NOT NULL, "sender" text NOT NULL, "command_id" uuid NOT NULL, "refused" text, CONSTRAINT "command_answer_pk" PRIMARY KEY ("session_id", "sender", "command_id"))`,
  `CREATE TABLE "one_time_code" ("id" uuid NOT NULL, "session_id" uuid NOT NULL, "technician_id" text NOT NULL, "lookup" bytea NOT NULL, "sealed_digits" bytea NOT NULL, "state" text NOT NULL, "seats" text array NOT NULL, "expires_at" timestamptz NOT NULL, CONSTRAINT "one_time_code_pk" PRIMARY KEY ("id"))`,
  `CREATE INDEX "one_time_code_lookup" ON "one_time_code" ("lookup")`,
  `CREATE INDEX "one_time_code_session" ON "one_time_code" ("session_id")`,
  `CREATE TABLE "door_pass" ("token_hash" bytea NOT NULL, "session_id" uuid NOT NULL, "role" text NOT NULL, "way" text NOT NULL, "expires_at" timestamptz NOT NULL, CONSTRAINT "door_pass_pk" PRIMARY KEY ("token_hash"))`,
  `CREATE TABLE "queue_entry" ("id" uuid NOT NULL, "token_hash" bytea NOT NULL, "name" text NOT NULL, "address" text NOT NULL, "topic" text NOT NULL, "language" text NOT NULL, "description" text NOT NULL, "ticket_ref" text, "state" text NOT NULL, "since" timestamptz NOT NULL, "technician_id" text, "session_id" uuid, CONSTRAINT "queue_entry_pk" PRIMARY KEY ("id"))`,
  `CREATE INDEX "queue_entry_state" ON "queue_entry" ("state")`,
  `CREATE INDEX "queue_entry_token" ON "queue_entry" ("token_hash")`,
  `CREATE TABLE "attempt" ("bucket" text NOT NULL, "window_start" timestamptz NOT NULL, "count" integer NOT NULL, CONSTRAINT "attempt_pk" PRIMARY KEY ("bucket"))`,
  `CREATE TABLE "outbox" ("id" uuid NOT NULL, "session_id" uuid NOT NULL, "kind" text NOT NULL, "payload" jsonb NOT NULL, "attempts" integer NOT NULL, "next_at" timestamptz NOT NULL, "delivered_at" timestamptz, "last_error" text, CONSTRAINT "outbox_pk" PRIMARY KEY ("id"))`,
  `CREATE INDEX "outbox_due" ON "outbox" ("next_at")`,
  `CREATE TABLE "webhook_seen" ("delivery_id" text NOT NULL, "at" timestamptz NOT NULL, CONSTRAINT "webhook_seen_pk" PRIMARY KEY ("delivery_id"))`,
  `CREATE TABLE "session_owner" ("id" integer NOT NULL, "epoch" integer NOT NULL, CONSTRAINT "session_owner_pk" PRIMARY KEY ("id"))`,
  `INSERT INTO "session_owner" ("id", "epoch") VALUES (1, 0)`,
];
const tables = [
  'session_owner',
  'webhook_seen',
  'outbox',
  'attempt',
  'queue_entry',
  'door_pass',
  'one_time_code',
  'command_answer',
  'ledger_row',
  'session',
  'sign_in',
  'technician',
];

export class FirstTables1763880000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of statements) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const table of tables) await runner.query(`DROP TABLE "${table}"`);
  }
}
