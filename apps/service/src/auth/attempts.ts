import { AppError } from '@porch/wire';
import type { DataSource } from 'typeorm';

export interface AttemptLimit {
  readonly name: string;
  readonly most: number;
  readonly windowSeconds: number;
}

/*
 * Wrong tries, counted in the records so that a restart forgives nothing. The arithmetic behind the numbers is in
 * docs/security.md.
 */
export const attemptLimits = {
  codePerAddress: { name: 'code', most: 10, windowSeconds: 600 },
  codePerService: { name: 'code-all', most: 20, windowSeconds: 60 },
  signInPerPerson: { name: 'sign-in', most: 5, windowSeconds: 300 },
  signInPerAddress: { name: 'sign-in-address', most: 30, windowSeconds: 300 },
} as const satisfies Record<string, AttemptLimit>;

export class Attempts {
  readonly #records: DataSource;

  constructor(records: DataSource) {
    this.#records = records;
  }

  /** Throws TOO_MANY_ATTEMPTS when the limit was reached within its window. */
  async check(limit: AttemptLimit, who: string): Promise<void> {
    const rows = await this.#records.query<{ count: number; left: string }[]>(
      `SELECT "count", extract(epoch FROM "window_start" + make_interval(secs => $2) - clock_timestamp()) AS left
         FROM "attempt" WHERE "bucket" = $1 AND "window_start" > clock_timestamp() - make_interval(secs => $2)`,
      [`${limit.name}:${who}`, limit.windowSeconds],
    );
    const row = rows[0];
    if (row && row.count >= limit.most)
      throw new AppError('TOO_MANY_ATTEMPTS', { retryAfterSeconds: Math.max(1, Math.ceil(Number(row.left))) });
  }

  async count(limit: AttemptLimit, who: string): Promise<void> {
    await this.#records.query(
      `INSERT INTO "attempt" ("bucket", "window_start", "count") VALUES ($1, clock_timestamp(), 1)
       ON CONFLICT ("bucket") DO UPDATE SET
         "count" = CASE WHEN "attempt"."window_start" > clock_timestamp() - make_interval(secs => $2) THEN "attempt"."count" + 1 ELSE 1 END,
         "window_start" = CASE WHEN "attempt"."window_start" > clock_timestamp() - make_interval(secs => $2) THEN "attempt"."window_start" ELSE clock_timestamp() END`,
      [`${limit.name}:${who}`, limit.windowSeconds],
    );
  }
}
