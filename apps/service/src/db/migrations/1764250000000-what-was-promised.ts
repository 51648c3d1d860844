import type { MigrationInterface, QueryRunner } from 'typeorm';

const up = [
  // A pass knows what it was made from, what its bearer proved, who came in by it, and whether it still lets anybody in.
  `ALTER TABLE "door_pass" ADD "parent_hash" bytea, ADD "proof" text, ADD "participant_id" uuid, ADD "is_closed" boolean NOT NULL DEFAULT false`,
  `ALTER TABLE "door_pass" ALTER "is_closed" DROP DEFAULT`,
  `CREATE INDEX "door_pass_session" ON "door_pass" ("session_id")`,
  `CREATE INDEX "door_pass_parent" ON "door_pass" ("parent_hash")`,
  // How many are in a session: so that those that nobody is in can be ended without being loaded.
  `ALTER TABLE "session" ADD "present" integer NOT NULL DEFAULT 1`,
  `ALTER TABLE "session" ALTER "present" DROP DEFAULT`,
  `CREATE INDEX "session_phase" ON "session" ("phase", "changed_at")`,
  // The sender's id is enough: a program that starts again is another participant, and tells the same fact.
  `CREATE INDEX "command_answer_id" ON "command_answer" ("session_id", "command_id")`,
  // Sign-ins that can be told apart, and ended one by one.
  `ALTER TABLE "sign_in" ADD "id" uuid NOT NULL DEFAULT gen_random_uuid(), ADD "begun_at" timestamptz NOT NULL DEFAULT clock_timestamp(), ADD "address" text NOT NULL DEFAULT '', ADD "program" text NOT NULL DEFAULT ''`,
  `ALTER TABLE "sign_in" ALTER "id" DROP DEFAULT, ALTER "begun_at" DROP DEFAULT, ALTER "address" DROP DEFAULT, ALTER "program" DROP DEFAULT`,
  `CREATE INDEX "sign_in_technician" ON "sign_in" ("technician_id")`,
  `ALTER TABLE "technician" ADD "disabled_at" timestamptz`,
];
const down = [
  `ALTER TABLE "technician" DROP "disabled_at"`,
  `DROP INDEX "sign_in_technician"`,
  `ALTER TABLE "sign_in" DROP "id", DROP "begun_at", DROP "address", DROP "program"`,
  `DROP INDEX "command_answer_id"`,
  `DROP INDEX "session_phase"`,
  `ALTER TABLE "session" DROP "present"`,
  `DROP INDEX "door_pass_parent"`,
  `DROP INDEX "door_pass_session"`,
  `ALTER TABLE "door_pass" DROP "parent_hash", DROP "proof", DROP "participant_id", DROP "is_closed"`,
];

export class WhatWasPromised1764250000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of up) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of down) await runner.query(statement);
  }
}
