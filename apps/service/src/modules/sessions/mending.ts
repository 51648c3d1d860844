import { newSession, replay } from '@porch/core';
import type { DataSource } from 'typeorm';
import { inTransaction } from '../../db/data-source.ts';
import type { Projecting } from '../../module/projecting.ts';
import { dropSnapshot, lockSession, readEntries } from './session-store.ts';
import { SessionEntity } from './session-tables.ts';
import { summaryOf } from './session-summary.ts';

const SESSIONS_A_ROUND = 200;
/** One that cannot be mended is looked at again after so long, and holds none of the others up. */
const AGAIN_MS = 10 * 60_000;
const BEHIND = `("projected_seq" <> "seq" OR "behind_in" <> '{}')`;

/** What is kept beside ledgers, made anew from them: what is behind, by and by; everything, when somebody says so. */
export class Mending {
  readonly #records: DataSource;
  readonly #projecting: Projecting;
  readonly #againAtMs = new Map<string, number>();

  constructor(records: DataSource, projecting: Projecting) {
    this.#records = records;
    this.#projecting = projecting;
  }

  /** Mends some of what is behind; hands back how many were looked at. */
  async round(): Promise<number> {
    const nowMs = Date.now();
    for (const [id, atMs] of this.#againAtMs) if (atMs <= nowMs) this.#againAtMs.delete(id);
    const rows = await this.#records.query<{ id: string }[]>(
      `SELECT "id" FROM "session" WHERE ${BEHIND} AND NOT ("id" = ANY($1)) ORDER BY "prepared_at" DESC, "id" DESC LIMIT $2`,
      [[...this.#againAtMs.keys()], SESSIONS_A_ROUND],
    );
    for (const { id } of rows) if (!(await this.#remake(id))) this.#againAtMs.set(id, nowMs + AGAIN_MS);
    return rows.length;
  }

  async countBehind(): Promise<number> {
    const [row] = await this.#records.query<{ n: string }[]>(`SELECT count(*) AS n FROM "session" WHERE ${BEHIND}`);
    return Number(row?.n ?? 0);
  }

  /**
   * All sessions, one after the other, or one alone; each in a transaction of its own, so that the desk goes on working.
   * Hands back how many were made anew, and those that could not be.
   */
  async rebuild(only?: string): Promise<{ done: number; faulty: string[] }> {
    const faulty: string[] = [];
    let done = 0;
    for (let after = '00000000-0000-0000-0000-000000000000'; ;) {
      const rows = only
        ? await this.#records.getRepository(SessionEntity).findBy({ id: only })
        : await this.#records.query<{ id: string }[]>(
            `SELECT "id" FROM "session" WHERE "id" > $1 ORDER BY "id" LIMIT $2`,
            [after, SESSIONS_A_ROUND],
          );
      for (const { id } of rows) {
        if (!(await this.#remake(id))) faulty.push(id);
        after = id;
        done++;
      }
      if (only || !rows.length) return { done, faulty };
    }
  }

  /** False when something of it could not be made: it stays behind. */
  #remake(id: string): Promise<boolean> {
    return inTransaction(this.#records, async (tx) => {
      const row = await lockSession(tx, id);
      const entries = await readEntries(tx, id);
      const after = replay(entries);
      // Written by a later release: that one knows what belongs beside it.
      if (after.notUnderstood.length) return false;
      const preparedAtMs = row.preparedAt.getTime();
      const behindIn = await this.#projecting.remake(tx, {
        sessionId: id,
        preparedAtMs,
        before: newSession,
        entries,
        after,
      });
      await tx.getRepository(SessionEntity).update(
        { id },
        {
          ...summaryOf(after, entries.at(-1)?.atMs ?? preparedAtMs),
          projectedSeq: row.seq,
          behindIn,
        },
      );
      // It may be what is wrong; the next command makes a new one.
      await dropSnapshot(tx, id);
      return !behindIn.length;
    });
  }
}
