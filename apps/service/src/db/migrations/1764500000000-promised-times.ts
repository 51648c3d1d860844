import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What somebody who waits was told as they came. */
export class PromisedTimes1764500000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE "queue_entry" ADD "promised_at" timestamptz`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE "queue_entry" DROP COLUMN "promised_at"`);
  }
}
