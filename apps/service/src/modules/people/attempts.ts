import { AppError, type ErrorCode } from '@porch/wire';
import type { DataSource } from 'typeorm';

export interface AttemptLimit {
  readonly name: string;
  readonly most: number;
  readonly windowSeconds: number;
  /** What is said when none are left; without it, to wait. */
  readonly pastIt?: ErrorCode;
}

/*
 * Wrong tries, counted in the records so that a restart forgives nothing. The arithmetic behind the numbers is in
 * docs/security.md.
 */
export const attemptLimits = {
  codePerAddress: { name: 'code', most: 10, windowSeconds: 600 },
  codeAlonePerService: { name: 'code-alone', most: 9, windowSeconds: 86_400, pastIt: 'CODE_SECOND_NEEDED' },
  codePairPerService: { name: 'code-pair', most: 1_000, windowSeconds: 60 },
  signInPerPerson: { name: 'sign-in', most: 5, windowSeconds: 300, pastIt: 'WORK_NEEDED' },
  /** With work done for each: not a lock, but what the next one costs is counted by it. */
  signInWorked: { name: 'sign-in-worked', most: 100_000, windowSeconds: 3_600 },
  workOnce: { name: 'work', most: 1, windowSeconds: 3_600 },
  signInPerAddress: { name: 'sign-in-address', most: 30, windowSeconds: 300 },
} as const satisfies Record<string, AttemptLimit>;

export type Try = readonly [limit: AttemptLimit, who: string];

export class Attempts {
  readonly #records: DataSource;

  constructor(records: DataSource) {
    this.#records = records;
  }

  /**
   * Takes one try of each, before anything is looked up: tries that come at the same moment are counted one by one.
   * Throws TOO_MANY_ATTEMPTS, or what the limit says itself, with nothing taken, when one of them has none left within its window.
   */
  async take(tries: readonly Try[]): Promise<void> {
    const taken: Try[] = [];
    for (const one of tries) {
      const [limit, who] = one;
      const [row] = await this.#records.query<{ count: number; left: string }[]>(
        `INSERT INTO "attempt" ("bucket", "window_start", "count") VALUES ($1, clock_timestamp(), 1)
         ON CONFLICT ("bucket") DO UPDATE SET
           "count" = CASE WHEN "attempt"."window_start" > clock_timestamp() - make_interval(secs => $2) THEN "attempt"."count" + 1 ELSE 1 END,
           "window_start" = CASE WHEN "attempt"."window_start" > clock_timestamp() - make_interval(secs => $2) THEN "attempt"."window_start" ELSE clock_timestamp() END
         RETURNING "count", extract(epoch FROM "window_start" + make_interval(secs => $2) - clock_timestamp()) AS left`,
        [`${limit.name}:${who}`, limit.windowSeconds],
      );
      taken.push(one);
      if (row && row.count > limit.most) {
        await this.giveBack(taken);
        if (limit.pastIt) throw new AppError(limit.pastIt);
        throw new AppError('TOO_MANY_ATTEMPTS', { retryAfterSeconds: Math.max(1, Math.ceil(Number(row.left))) });
      }
    }
  }

  /** How many of this were taken within the window that runs. */
  async taken(limit: AttemptLimit, who: string): Promise<number> {
    const [row] = await this.#records.query<{ count: number }[]>(
      `SELECT "count" FROM "attempt" WHERE "bucket" = $1 AND "window_start" > clock_timestamp() - make_interval(secs => $2)`,
      [`${limit.name}:${who}`, limit.windowSeconds],
    );
    return row?.count ?? 0;
  }

  /** Those whose window is over count for nothing: anybody can make them, so they do not pile up. */
  async forgetOld(): Promise<void> {
    await this.#records.query(
      `DELETE FROM "attempt" WHERE "window_start" < clock_timestamp() - make_interval(secs => $1)`,
      [Math.max(...Object.values(attemptLimits).map(({ windowSeconds }) => windowSeconds))],
    );
  }

  /** A try that was right costs nothing. */
  async giveBack(tries: readonly Try[]): Promise<void> {
    for (const [limit, who] of tries)
      await this.#records.query(`UPDATE "attempt" SET "count" = greatest("count" - 1, 0) WHERE "bucket" = $1`, [
        `${limit.name}:${who}`,
      ]);
  }
}
