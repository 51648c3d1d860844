import type { DataSource } from 'typeorm';
import { RoundEntity } from './round-table.ts';

/** Whoever does a round has it for so long; then, if nothing was heard of them, another may. Rounds are short. */
const HELD_MS = 60_000;
const LONGEST_PAUSE_MS = 5 * 60_000;
const MAX_WHY_CHARACTERS = 300;

/** One round is done by one process, whichever comes to it, and is due again a pause after it ended. */
export class SharedRounds {
  readonly #records: DataSource;

  constructor(records: DataSource) {
    this.#records = records;
  }

  /**
   * Does it when it is due and nobody else has it; false when there was nothing to do. One that fails is due again after a
   * pause that doubles with each failure, and what it threw is thrown.
   */
  async take(what: string, pauseMs: number, work: () => Promise<unknown>): Promise<boolean> {
    if (!(await this.#hold(what))) return false;
    try {
      await work();
    } catch (error) {
      const why = String((error as Error).message).slice(0, MAX_WHY_CHARACTERS);
      await this.#records.query(
        `UPDATE "round" SET "held_until" = NULL, "failures" = "failures" + 1, "last_error" = $2,
                "due_at" = clock_timestamp() + make_interval(secs => least($3, $4 * power(2, least("failures" + 1, 20))))
          WHERE "what" = $1`,
        [what, why, LONGEST_PAUSE_MS / 1000, pauseMs / 1000],
      );
      throw error;
    }
    await this.#records.query(
      `UPDATE "round" SET "held_until" = NULL, "failures" = 0, "last_error" = NULL,
              "due_at" = clock_timestamp() + make_interval(secs => $2) WHERE "what" = $1`,
      [what, pauseMs / 1000],
    );
    return true;
  }

  async #hold(what: string): Promise<boolean> {
    // A look changes nothing: most of them find nothing due.
    const [row] = await this.#records.query<{ is_due: boolean }[]>(
      `SELECT "due_at" <= clock_timestamp() AND ("held_until" IS NULL OR "held_until" < clock_timestamp()) AS is_due FROM "round" WHERE "what" = $1`,
      [what],
    );
    if (row && !row.is_due) return false;
    if (!row)
      await this.#records
        .getRepository(RoundEntity)
        .createQueryBuilder()
        .insert()
        .values({ what, dueAt: () => 'clock_timestamp()', heldUntil: null, failures: 0, lastError: null })
        .orIgnore()
        .execute();
    const [held] = await this.#records.query<[unknown[], number]>(
      `UPDATE "round" SET "held_until" = clock_timestamp() + make_interval(secs => $2)
        WHERE "what" = $1 AND "due_at" <= clock_timestamp() AND ("held_until" IS NULL OR "held_until" < clock_timestamp()) RETURNING 1`,
      [what, HELD_MS / 1000],
    );
    return held.length > 0;
  }
}
