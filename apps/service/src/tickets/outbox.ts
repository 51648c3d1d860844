import type { BookingNotice } from '@porch/core';
import type { FastifyBaseLogger } from 'fastify';
import { In, IsNull, type DataSource, type EntityManager } from 'typeorm';
import { randomUUID } from 'node:crypto';
import { OutboxEntity, type OutboxRow } from '../db/entities.ts';
import { NeverDeliverable } from '../messages/message-gateway.ts';
import { RepeatedWork } from '../repeated-work.ts';
import type { TicketOutcome } from './ticket-system.ts';

const LOOK_MS = 500;
const BATCH = 30;
const RETRY_FIRST_MS = 1_000;
const RETRY_LAST_MS = 60_000;

/** What must reach somebody outside. Links are secrets, so a parcel names its invitation and holds none. */
export interface Parcels {
  readonly outcome: { ref: string; outcome: TicketOutcome };
  /** A ticket for a session that has none, and its outcome when it is over. */
  readonly newTicket: { sessionId: string; outcome?: TicketOutcome };
  readonly invitation: { invitationId: string };
  /** What a customer is told of their booking; `sequence` tells a change from the next. */
  readonly booking: { bookingId: string; notice: BookingNotice; sequence: number; by?: 'mail' | 'text' };
  /** Plain words for a ticket, without a link. */
  readonly remark: { ref: string; text: string };
}
export type ParcelKind = keyof Parcels;

/** Who carries one kind of parcel. `NeverDeliverable` ends the tries; any other failure is tried again. */
export interface Carrier<P> {
  carry(payload: P, id: string): Promise<void>;
  heldUp?(payload: P, why: string): Promise<void>;
  givenUp?(payload: P, why: string): Promise<void>;
}
export type Carriers = { readonly [K in ParcelKind]: Carrier<Parcels[K]> };

/** What must leave is written down with the events, and tried until it has arrived, or never can. */
export class Outbox {
  readonly #records: DataSource;
  readonly #log: FastifyBaseLogger;
  readonly #onChange: () => void;
  #carriers: Carriers | undefined;
  readonly #looking: RepeatedWork;

  constructor(records: DataSource, log: FastifyBaseLogger, onChange: () => void) {
    this.#records = records;
    this.#log = log;
    this.#onChange = onChange;
    this.#looking = new RepeatedWork('reading the outbox', LOOK_MS, log, () => this.#deliverDue());
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
    return this.#records
      .getRepository(OutboxEntity)
      .countBy({ kind: In(['outcome', 'newTicket', 'remark']), deliveredAt: IsNull(), givenUpAt: IsNull() });
  }

  start(carriers: Carriers): void {
    this.#carriers = carriers;
    this.#looking.start();
  }

  close = (): Promise<void> => this.#looking.close();

  async #deliverDue(): Promise<void> {
    const due = await this.#records
      .getRepository(OutboxEntity)
      .createQueryBuilder('o')
      .where('o."delivered_at" IS NULL AND o."given_up_at" IS NULL AND o."next_at" <= clock_timestamp()')
      .orderBy('o."next_at"')
      .limit(BATCH)
      .getMany();
    // A receiver that hangs holds up its own kind only.
    const kinds = [...new Set(due.map((row) => row.kind))];
    await Promise.all(
      kinds.map(async (kind) => {
        for (const row of due.filter((r) => r.kind === kind)) await this.#try(row);
      }),
    );
  }

  async #try(row: OutboxRow): Promise<void> {
    const outbox = this.#records.getRepository(OutboxEntity);
    const carrier = this.#carriers?.[row.kind] as Carrier<unknown> | undefined;
    if (!carrier) return;
    const attempts = row.attempts + 1;
    try {
      await carrier.carry(row.payload, row.id);
      await outbox.update({ id: row.id }, { deliveredAt: new Date(), lastError: null, attempts });
    } catch (error) {
      const why = String((error as Error).message).slice(0, 300);
      const isOver = error instanceof NeverDeliverable;
      const waitMs = Math.min(RETRY_LAST_MS, RETRY_FIRST_MS * 2 ** row.attempts);
      await outbox.update(
        { id: row.id },
        {
          attempts,
          lastError: why,
          ...(isOver ? { givenUpAt: new Date() } : { nextAt: new Date(Date.now() + waitMs) }),
        },
      );
      await (isOver ? carrier.givenUp?.(row.payload, why) : carrier.heldUp?.(row.payload, why));
      this.#log.warn(
        { parcel: row.id, kind: row.kind, attempts, waitMs: isOver ? undefined : waitMs },
        'a parcel did not arrive',
      );
    }
    this.#onChange();
  }
}
