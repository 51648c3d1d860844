import { randomUUID } from 'node:crypto';
import { AppError, type EntryStatus, type QueueEntryView } from '@porch/wire';
import type { DataSource } from 'typeorm';
import type { z } from 'zod';
import { hashToken, makeToken } from '../auth/tokens.ts';
import { DoorPassEntity, QueueEntryEntity, type QueueEntryRow } from '../db/entities.ts';

/** A queue longer than this helps nobody: the request page says so instead of taking more. */
const MAX_WAITING = 200;
const PASS_MS = 24 * 60 * 60 * 1000;

export type NewEntry = Pick<QueueEntryRow, 'name' | 'address' | 'topic' | 'language' | 'description'> & {
  ticketRef?: string | undefined;
};

const view = (row: QueueEntryRow): QueueEntryView => ({
  id: row.id,
  name: row.name,
  topic: row.topic,
  language: row.language,
  description: row.description,
  ...(row.ticketRef ? { ticketRef: row.ticketRef } : {}),
  sinceMs: row.since.getTime(),
  state: row.state,
});

/** Those who asked for help on the request page and wait. */
export class QueueDesk {
  readonly #records: DataSource;

  constructor(records: DataSource) {
    this.#records = records;
  }

  async waiting(): Promise<QueueEntryView[]> {
    const rows = await this.#records
      .getRepository(QueueEntryEntity)
      .find({ where: { state: 'waiting' }, order: { since: 'ASC' }, take: MAX_WAITING });
    return rows.map(view);
  }

  async ask(entry: NewEntry): Promise<z.infer<typeof EntryStatus>> {
    const entries = this.#records.getRepository(QueueEntryEntity);
    if ((await entries.countBy({ state: 'waiting' })) >= MAX_WAITING) throw new AppError('TOO_MANY_ATTEMPTS');
    const token = makeToken();
    const id = randomUUID();
    await this.#records.query(
      `INSERT INTO "queue_entry" ("id", "token_hash", "name", "address", "topic", "language", "description", "ticket_ref", "state", "since")
       VALUES ($1, $2, $3, $4, $5, $6, $7, $8, 'waiting', clock_timestamp())`,
      [
        id,
        hashToken(token),
        entry.name,
        entry.address,
        entry.topic,
        entry.language,
        entry.description,
        entry.ticketRef ?? null,
      ],
    );
    return { ...(await this.status(token)), token };
  }

  /** Where the bearer stands. Once taken, it carries what lets them in to their session. */
  async status(token: string): Promise<z.infer<typeof EntryStatus>> {
    const entries = this.#records.getRepository(QueueEntryEntity);
    const row = await entries.findOneBy({ tokenHash: hashToken(token) });
    if (!row) throw new AppError('ENTRY_NOT_FOUND');
    const ahead = await entries
      .createQueryBuilder('q')
      .where(`q.state = 'waiting' AND q.since < :since`, { since: row.since })
      .getCount();
    return {
      entry: view(row),
      place: row.state === 'waiting' ? ahead + 1 : 0,
      ...(row.state === 'taken' && row.sessionId ? { joinToken: await this.#pass(row.sessionId) } : {}),
    };
  }

  async leave(token: string): Promise<QueueEntryView> {
    const entries = this.#records.getRepository(QueueEntryEntity);
    await entries.update({ tokenHash: hashToken(token), state: 'waiting' }, { state: 'left' });
    return (await this.status(token)).entry;
  }

  async #pass(sessionId: string): Promise<string> {
    const token = makeToken();
    await this.#records.getRepository(DoorPassEntity).insert({
      tokenHash: hashToken(token),
      sessionId,
      role: 'invitation',
      way: 'queue',
      invitationId: null,
      expiresAt: new Date(Date.now() + PASS_MS),
    });
    return token;
  }
}
