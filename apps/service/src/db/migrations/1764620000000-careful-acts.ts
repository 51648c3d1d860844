import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What somebody else still has something to say to, because of the label of a device. */
export class CarefulActs1764620000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "careful_act" ("session_id" uuid NOT NULL, "act_id" uuid NOT NULL, "kind" text NOT NULL, "asked_at" timestamptz NOT NULL, CONSTRAINT "careful_act_pk" PRIMARY KEY ("session_id", "act_id", "kind"))`,
    );
    await runner.query(`CREATE INDEX "careful_act_asked" ON "careful_act" ("asked_at")`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`DROP TABLE "careful_act"`);
  }
}
