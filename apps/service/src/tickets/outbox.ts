import { AppError } from '@porch/wire';
import type { FastifyBaseLogger } from 'fastify';
import { IsNull, type DataSource, type EntityManager } from 'typeorm';
import { randomUUID } from 'node:crypto';
import { OutboxEntity, type OutboxRow } from '../db/entities.ts';
import type { TicketOutcome, TicketSystem } from './ticket-system.ts';

const LOOK_MS = 1_000;
const BATCH = 10;
const RETRY_FIRST_MS = 1_000;
const RETRY_LAST_MS = 60_000;

export type Parcel =
  | { kind: 'comment'; payload: { ref: string; text: string } }
  | { kind: 'outcome'; payload: { ref: string; outcome: TicketOutcome } };

/** What must reach the ticket system is written down with the events, and delivered until it has arrived. */
export class Outbox {
  readonly #records: DataSource;
  readonly #tickets: TicketSystem;
  readonly #log: FastifyBaseLogger;
  readonly #onChange: () => void;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #isClosed = false;
  #round: Promise<void> = Promise.resolve();

  constructor(records: DataSource, tickets: TicketSystem, log: FastifyBaseLogger, onChange: () => void) {
    this.#records = records;
    this.#tickets = tickets;
    this.#log = log;
    this.#onChange = onChange;
  }

  async put(tx: EntityManager, sessionId: string, parcel: Parcel, nowMs: number): Promise<void> {
    await tx.getRepository(OutboxEntity).insert({
      id: randomUUID(),
      sessionId,
      kind: parcel.kind,
      payload: parcel.payload as never,
      attempts: 0,
      nextAt: new Date(nowMs),
      deliveredAt: null,
      lastError: null,
    });
  }

  undelivered(): Promise<number> {
    return this.#records.getRepository(OutboxEntity).countBy({ deliveredAt: IsNull() });
  }

  start(): void {
    this.#timer = setTimeout(() => {
      this.#round = this.#deliverDue()
        .catch((error: unknown) => this.#log.warn({ err: error }, 'the outbox could not be read'))
        .finally(() => {
          if (!this.#isClosed) this.start();
        });
    }, LOOK_MS);
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    clearTimeout(this.#timer);
    await this.#round;
  }

  async #deliverDue(): Promise<void> {
    const outbox = this.#records.getRepository(OutboxEntity);
    const due = await outbox
      .createQueryBuilder('o')
      .where('o."delivered_at" IS NULL AND o."next_at" <= clock_timestamp()')
      .orderBy('o."next_at"')
      .limit(BATCH)
      .getMany();
    for (const row of due) {
      try {
        await this.#deliver(row);
        await outbox.update({ id: row.id }, { deliveredAt: new Date(), lastError: null, attempts: row.attempts + 1 });
      } catch (error) {
        const waitMs = Math.min(RETRY_LAST_MS, RETRY_FIRST_MS * 2 ** row.attempts);
        const why = error instanceof AppError ? error.code : String(error);
        await outbox.update(
          { id: row.id },
          { attempts: row.attempts + 1, nextAt: new Date(Date.now() + waitMs), lastError: why },
        );
        this.#log.warn({ parcel: row.id, why, waitMs }, 'a parcel for the ticket system has to wait');
      }
      this.#onChange();
    }
  }

  async #deliver(row: OutboxRow): Promise<void> {
    const parcel = { kind: row.kind, payload: row.payload } as Parcel;
    if (parcel.kind === 'comment') await this.#tickets.comment(parcel.payload.ref, parcel.payload.text, row.id);
    else await this.#tickets.logOutcome(parcel.payload.ref, parcel.payload.outcome, row.id);
  }
}
