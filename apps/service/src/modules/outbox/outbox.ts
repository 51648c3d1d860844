import type { FastifyBaseLogger } from 'fastify';
import { In, IsNull, type DataSource, type EntityManager } from 'typeorm';
import { randomUUID } from 'node:crypto';
import { NeverDeliverable, type Carrier, type Carriers, type ParcelKind, type Parcels } from '../../module/parcels.ts';
import { OutboxEntity, type OutboxRow } from './outbox-table.ts';

const RETRY_FIRST_MS = 1_000;
const RETRY_LAST_MS = 60_000;
/** Whoever carries a parcel has it for so long; then, if nothing was heard, anybody may try. Longer than any carrier takes. */
const HELD_MS = 30_000;
/** About a week of one try a minute: what has not arrived by then waits for somebody to look at it. */
const MOST_TRIES = 10_000;
const MAX_WHY_CHARACTERS = 300;

export interface OutboxParts {
  readonly records: DataSource;
  readonly log: FastifyBaseLogger;
  onChanged(): void;
  carrier<K extends ParcelKind>(kind: K): Carriers[K] | undefined;
}

/**
 * What must leave is written down with the events, and tried until it has arrived, or never can. Any number of processes
 * may deliver from it: each takes a parcel by putting off the moment of its next try, under the row's lock.
 */
export class Outbox {
  readonly #parts: OutboxParts;

  constructor(parts: OutboxParts) {
    this.#parts = parts;
  }

  async put<K extends ParcelKind>(
    tx: EntityManager,
    sessionId: string,
    kind: K,
    payload: Parcels[K],
    nowMs: number,
  ): Promise<void> {
    await tx.getRepository(OutboxEntity).insert({
      id: randomUUID(),
      sessionId,
      kind,
      payload: payload as never,
      attempts: 0,
      nextAt: new Date(nowMs),
      deliveredAt: null,
      givenUpAt: null,
      lastError: null,
    });
  }

  /** How much waits for the ticket system; invitations tell of themselves. */
  undelivered(): Promise<number> {
    return this.#parts.records
      .getRepository(OutboxEntity)
      .countBy({ kind: In(['outcome', 'newTicket', 'remark']), deliveredAt: IsNull(), givenUpAt: IsNull() });
  }

  /** How many outcomes of each of these sessions have not arrived. */
  async undeliveredOf(sessionIds: readonly string[]): Promise<ReadonlyMap<string, number>> {
    const rows = await this.#parts.records.query<{ id: string; n: string }[]>(
      `SELECT "session_id" AS id, count(*) AS n FROM "outbox" WHERE "kind" = 'outcome' AND "delivered_at" IS NULL AND "given_up_at" IS NULL AND "session_id" = ANY($1) GROUP BY 1`,
      [sessionIds],
    );
    return new Map(rows.map(({ id, n }) => [id, Number(n)]));
  }

  /** How long the oldest parcel that is due has waited. */
  async ageSeconds(): Promise<number> {
    const [row] = await this.#parts.records.query<{ age: string | null }[]>(
      `SELECT extract(epoch FROM clock_timestamp() - min("next_at")) AS age FROM "outbox" WHERE "delivered_at" IS NULL AND "given_up_at" IS NULL`,
    );
    return Math.max(0, Number(row?.age ?? 0));
  }

  /** A parcel that has not left says only what the ledger said; what has left is the receiver's to erase. */
  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    await tx.getRepository(OutboxEntity).delete({ sessionId });
  }

  /** One round: all that is due. A receiver that hangs holds up its own kind only. */
  async deliverDue(): Promise<void> {
    const due = await this.#parts.records.query<{ kind: ParcelKind }[]>(
      `SELECT DISTINCT "kind" FROM "outbox" WHERE "delivered_at" IS NULL AND "given_up_at" IS NULL AND "next_at" <= clock_timestamp()`,
    );
    await Promise.all(
      due.map(async ({ kind }) => {
        // Another release's kind stays where it is, until that release is back.
        const carrier = this.#parts.carrier(kind) as Carrier<unknown> | undefined;
        if (!carrier) return;
        for (let row = await this.#take(kind); row; row = await this.#take(kind)) await this.#try(row, carrier);
      }),
    );
  }

  /** The one that waited longest, and nobody else's for a while. */
  async #take(kind: ParcelKind): Promise<Pick<OutboxRow, 'id' | 'payload' | 'attempts'> | undefined> {
    const [rows] = await this.#parts.records.query<[Pick<OutboxRow, 'id' | 'payload' | 'attempts'>[], number]>(
      `UPDATE "outbox" SET "attempts" = "attempts" + 1, "next_at" = clock_timestamp() + make_interval(secs => $2)
        WHERE "id" = (SELECT "id" FROM "outbox"
                       WHERE "kind" = $1 AND "delivered_at" IS NULL AND "given_up_at" IS NULL AND "next_at" <= clock_timestamp()
                       ORDER BY "next_at" LIMIT 1 FOR UPDATE SKIP LOCKED)
        RETURNING "id", "payload", "attempts"`,
      [kind, HELD_MS / 1000],
    );
    return rows[0];
  }

  async #try(
    { id, payload, attempts }: Pick<OutboxRow, 'id' | 'payload' | 'attempts'>,
    carrier: Carrier<unknown>,
  ): Promise<void> {
    const { records, log, onChanged } = this.#parts;
    try {
      await carrier.carry(payload, id);
      await records.query(
        `UPDATE "outbox" SET "delivered_at" = clock_timestamp(), "last_error" = NULL WHERE "id" = $1`,
        [id],
      );
    } catch (error) {
      const why = String((error as Error).message).slice(0, MAX_WHY_CHARACTERS);
      const isOver = error instanceof NeverDeliverable || attempts >= MOST_TRIES;
      const waitMs = Math.min(RETRY_LAST_MS, RETRY_FIRST_MS * 2 ** (attempts - 1));
      await records.query(
        `UPDATE "outbox" SET "last_error" = $2, "next_at" = clock_timestamp() + make_interval(secs => $3),
                "given_up_at" = CASE WHEN $4 THEN clock_timestamp() END WHERE "id" = $1`,
        [id, why, waitMs / 1000, isOver],
      );
      await (isOver ? carrier.givenUp?.(payload, why) : carrier.heldUp?.(payload, why));
      log.warn({ parcel: id, attempts, waitMs: isOver ? undefined : waitMs }, 'a parcel did not arrive');
    }
    onChanged();
  }
}
