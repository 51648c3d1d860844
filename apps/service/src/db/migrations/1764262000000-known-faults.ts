import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What many have is a known fault; a notice is the privacy notice, and nothing else. */
export class KnownFaults1764262000000 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE "notice" RENAME TO "known_fault"`);
    await runner.query(`ALTER TABLE "known_fault" RENAME "me_too" TO "happens_to_count"`);
    await runner.query(`ALTER INDEX "notice_pk" RENAME TO "known_fault_pk"`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER INDEX "known_fault_pk" RENAME TO "notice_pk"`);
    await runner.query(`ALTER TABLE "known_fault" RENAME "happens_to_count" TO "me_too"`);
    await runner.query(`ALTER TABLE "known_fault" RENAME TO "notice"`);
  }
}
