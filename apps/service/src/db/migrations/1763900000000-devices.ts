import type { MigrationInterface, QueryRunner } from 'typeorm';

const up = [
  `CREATE TABLE "device" ("id" uuid NOT NULL, "name" text NOT NULL, "sign_key" text NOT NULL, "customer_name" text NOT NULL, "customer_address" text NOT NULL, "language" text NOT NULL, "allowed" text array NOT NULL, "asks_each_visit" boolean NOT NULL, "made_in_session" uuid NOT NULL, "made_at" timestamptz NOT NULL, "until_at" timestamptz NOT NULL, "seen_at" timestamptz, "ended_at" timestamptz, "ended_how" text, CONSTRAINT "device_pk" PRIMARY KEY ("id"))`,
  `ALTER TABLE "session" ADD "device_id" uuid, ADD "has_grants" boolean NOT NULL DEFAULT false`,
  `ALTER TABLE "session" ALTER "has_grants" DROP DEFAULT`,
  `ALTER TABLE "technician" ADD "skills" text array NOT NULL DEFAULT '{}'`,
  `ALTER TABLE "technician" ALTER "skills" DROP DEFAULT`,
  `ALTER TABLE "door_pass" ADD "is_single_use" boolean NOT NULL DEFAULT false`,
  `ALTER TABLE "door_pass" ALTER "is_single_use" DROP DEFAULT`,
  `CREATE INDEX "session_device" ON "session" ("device_id")`,
];
const down = [
  `ALTER TABLE "door_pass" DROP "is_single_use"`,
  `ALTER TABLE "technician" DROP "skills"`,
  `ALTER TABLE "session" DROP "has_grants", DROP "device_id"`,
  `DROP TABLE "device"`,
];

export class Devices1763900000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    for (const statement of up) await runner.query(statement);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const statement of down) await runner.query(statement);
  }
}
