import { randomUUID } from 'node:crypto';
import {
  decideTakeEntry,
  isOpenAt,
  isRefusal,
  isSameTelephone,
  type RoutedEntry,
  nextOpening,
  type PolicyFor,
  type WaitingEstimate,
} from '@porch/core';
import { AppError, type EntryStatus, type QueueEntryView, type QueueMessage, type RequestBody } from '@porch/wire';
import { In, IsNull, Not, type DataSource, type EntityManager } from 'typeorm';
import type { z } from 'zod';
import { hashToken, makeToken } from '../../auth/tokens.ts';
import { databaseNowMs, inTransaction } from '../../db/data-source.ts';
import { lockRow } from '../../db/lock-row.ts';
import type { DoorPasses } from '../passes/door-passes.ts';
import { QueueEntryEntity, QueueMessageEntity, type QueueEntryRow, type QueueMessageRow } from './queue-tables.ts';
import type { Technician, Technicians } from '../people/technician.ts';
import { permit } from '../../auth/permit.ts';
import { routed } from './routing-round.ts';
import type { WaitingEstimates } from './waiting-estimates.ts';
import type { TechnicianStates } from './technician-states.ts';

/** So much may be written before anybody answers. */
const MAX_MESSAGES = 50;
export interface QueueDeskParts {
  readonly records: DataSource;
  readonly policyFor: PolicyFor;
  readonly states: TechnicianStates;
  readonly technicians: Technicians;
  readonly passes: DoorPasses;
  readonly estimates: WaitingEstimates;
}

/** Somebody who asked for help. */
export type WaitingEntry = Readonly<QueueEntryRow>;

/** Somebody who waits, whom they are offered to, and how routing looks at them. */
export interface WaitingNow {
  readonly view: QueueEntryView;
  readonly routed: RoutedEntry;
  readonly offer?: { readonly technicianId: string; readonly technicianName: string; readonly endsAtMs: number };
}

/** Those who asked for help and wait: their place, what they say meanwhile, whom they are offered to. */
export class QueueDesk {
  readonly #parts: QueueDeskParts;

  constructor(parts: QueueDeskParts) {
    this.#parts = parts;
  }

  /** Everybody who waits, as all of the desk may see them, who waited longest first. */
  async waitingNow(): Promise<WaitingNow[]> {
    const { records, policyFor, technicians } = this.#parts;
    const { maxWaiting, topics } = policyFor();
    const rows = await records
      .getRepository(QueueEntryEntity)
      .find({ where: { state: 'waiting' }, order: { since: 'ASC' }, take: maxWaiting });
    if (!rows.length) return [];
    const messages = await this.#messages(rows.map((r) => r.id));
    return rows.map((row) => ({
      view: this.#view(row, messages),
      routed: routed(row, topics),
      ...(row.offeredTo && row.offerEndsAt
        ? {
            offer: {
              technicianId: row.offeredTo,
              technicianName: technicians.get(row.offeredTo)?.name ?? '',
              endsAtMs: row.offerEndsAt.getTime(),
            },
          }
        : {}),
    }));
  }

  /** What the request page says before anybody types. */
  async now(): Promise<{
    isOpen: boolean;
    opensAtMs?: number;
    isFull: boolean;
    waiting: number;
    estimate?: WaitingEstimate;
  }> {
    const { policyFor, records } = this.#parts;
    const policy = policyFor();
    const nowMs = Date.now();
    const isOpen = isOpenAt(policy.officeHours, nowMs, policy.timeZone);
    const waiting = await records.getRepository(QueueEntryEntity).countBy({ state: 'waiting' });
    const estimate = await this.#parts.estimates.after(waiting);
    return {
      isOpen,
      ...(isOpen ? {} : { opensAtMs: nextOpening(policy.officeHours, nowMs, policy.timeZone) }),
      isFull: waiting >= policy.maxWaiting,
      waiting,
      ...(estimate ? { estimate } : {}),
    };
  }

  /** Throws DESK_CLOSED, QUEUE_FULL. */
  async ask(entry: z.infer<typeof RequestBody> & { isConfirmed: boolean }): Promise<z.infer<typeof EntryStatus>> {
    const { isOpen, isFull, estimate } = await this.now();
    if (!isOpen) throw new AppError('DESK_CLOSED');
    if (isFull) throw new AppError('QUEUE_FULL');
    const token = makeToken();
    await inTransaction(this.#parts.records, async (tx) => {
      const nowMs = await databaseNowMs(tx);
      await tx.getRepository(QueueEntryEntity).insert({
        id: randomUUID(),
        tokenHash: hashToken(token),
        name: entry.name,
        address: entry.address,
        topic: entry.topic,
        language: entry.language,
        description: entry.description,
        ticketRef: entry.ticketRef ?? null,
        state: 'waiting',
        since: new Date(nowMs),
        promisedAt: estimate ? new Date(nowMs + estimate.toMs) : null,
        wants: entry.wants,
        isConfirmed: entry.isConfirmed,
        callBack: entry.callBack ? entry.callBack : null,
        passedBy: [],
        offeredTo: null,
        offerEndsAt: null,
        technicianId: null,
        sessionId: null,
        closedAt: null,
      });
    });
    return { ...(await this.status(token)), token };
  }

  /** Where the bearer stands. Once taken, it carries what lets them in to their session. */
  async status(token: string): Promise<z.infer<typeof EntryStatus>> {
    const row = await this.#byToken(token);
    const isWaiting = row.state === 'waiting';
    const ahead = await this.#parts.records
      .getRepository(QueueEntryEntity)
      .createQueryBuilder('q')
      .where(`q.state = 'waiting' AND (q.since, q.id) < (:since, :id)`, { since: row.since, id: row.id })
      .getCount();
    const estimate = isWaiting ? await this.#parts.estimates.after(ahead) : undefined;
    return {
      entry: this.#view(row, await this.#messages([row.id])),
      place: isWaiting ? ahead + 1 : 0,
      ...(estimate ? { estimate } : {}),
      isBeingRead: isWaiting && row.offeredTo !== null,
      ...(row.state === 'taken' && row.sessionId
        ? {
            joinToken: await this.#parts.passes.fromQueue({
              id: row.id,
              sessionId: row.sessionId,
              isConfirmed: row.isConfirmed,
            }),
          }
        : {}),
    };
  }

  /** An entry, as whoever takes it sees it beforehand. Throws ENTRY_NOT_FOUND. */
  async find(entryId: string): Promise<WaitingEntry> {
    const row = await this.#parts.records.getRepository(QueueEntryEntity).findOneBy({ id: entryId });
    if (!row) throw new AppError('ENTRY_NOT_FOUND');
    return row;
  }

  /** Those who wait and are to be called back at this number. */
  async ofTelephone(telephone: string): Promise<{ readonly address: string; readonly view: QueueEntryView }[]> {
    const rows = await this.#parts.records.getRepository(QueueEntryEntity).find({
      where: { state: 'waiting', callBack: Not(IsNull()) },
      order: { since: 'ASC' },
      take: this.#parts.policyFor().maxWaiting,
    });
    const theirs = rows.filter((row) => isSameTelephone(row.callBack ?? '', telephone));
    const messages = theirs.length ? await this.#messages(theirs.map(({ id }) => id)) : [];
    return theirs.map((row) => ({ address: row.address, view: this.#view(row, messages) }));
  }

  /** The number that was given by whom this session was taken for. */
  async telephoneOf(sessionId: string): Promise<string | undefined> {
    const row = await this.#parts.records.getRepository(QueueEntryEntity).findOneBy({ sessionId });
    return row?.callBack ?? undefined;
  }

  /** What whoever waited asked for, when a session came of it. */
  async askedIn(sessionId: string): Promise<{ topic: string; description: string } | undefined> {
    const row = await this.#parts.records.getRepository(QueueEntryEntity).findOneBy({ sessionId });
    return row ? { topic: row.topic, description: row.description } : undefined;
  }

  async countWaiting(): Promise<number> {
    return this.#parts.records.getRepository(QueueEntryEntity).countBy({ state: 'waiting' });
  }

  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    const entries = tx.getRepository(QueueEntryEntity);
    for (const { id } of await entries.findBy({ sessionId }))
      await tx.getRepository(QueueMessageEntity).delete({ entryId: id });
    await entries.update({ sessionId }, { name: '', address: '', description: '', callBack: null });
  }

  /** Leaving is a fact; who is taken already leaves the session and not the queue. */
  async leave(token: string): Promise<QueueEntryView> {
    await this.#parts.records
      .getRepository(QueueEntryEntity)
      .update(
        { tokenHash: hashToken(token), state: 'waiting' },
        { state: 'left', offeredTo: null, closedAt: new Date() },
      );
    return (await this.status(token)).entry;
  }

  async sayAsCustomer(token: string, text: string): Promise<void> {
    const row = await this.#byToken(token);
    await this.#say(row, null, text);
  }
  async sayAsTechnician(me: Technician, entryId: string, text: string): Promise<void> {
    const row = await this.#parts.records.getRepository(QueueEntryEntity).findOneBy({ id: entryId });
    if (!row) throw new AppError('ENTRY_NOT_FOUND');
    permit(me, 'write to somebody waiting', { offeredTo: row.offeredTo ?? undefined });
    await this.#say(row, me.id, text);
  }

  /** "Not now": it goes on to the next. Throws ENTRY_NOT_WAITING when it is not offered to them any longer. */
  async decline(me: Technician, entryId: string): Promise<void> {
    await inTransaction(this.#parts.records, async (tx) => {
      const row = await lockRow(tx, QueueEntryEntity, entryId);
      if (row?.state !== 'waiting' || row.offeredTo !== me.id) throw new AppError('ENTRY_NOT_WAITING');
      await tx
        .getRepository(QueueEntryEntity)
        .update({ id: entryId }, { offeredTo: null, offerEndsAt: null, passedBy: [...row.passedBy, me.id] });
    });
  }

  /**
   * Within the transaction that makes the session: the entry is taken by one technician and no other. Hands back the
   * row and what was said in the queue, which moves into the ledger.
   */
  async take(
    tx: EntityManager,
    entryId: string,
    technicianId: string,
    sessionId: string,
    nowMs: number,
  ): Promise<{ row: WaitingEntry; saidBefore: { atMs: number; name: string; text: string }[] }> {
    const row = await lockRow(tx, QueueEntryEntity, entryId);
    if (!row) throw new AppError('ENTRY_NOT_FOUND');
    const isOffered = row.offeredTo !== null && (row.offerEndsAt?.getTime() ?? 0) > nowMs;
    const decision = decideTakeEntry(
      row.state === 'waiting' ? { name: 'waiting', sinceMs: row.since.getTime() } : { name: 'left', sinceMs: 0 },
      technicianId,
      sessionId,
      isOffered ? (row.offeredTo ?? undefined) : undefined,
    );
    if (isRefusal(decision)) throw new AppError(decision.refused);
    await tx
      .getRepository(QueueEntryEntity)
      .update(
        { id: entryId },
        { state: 'taken', technicianId, sessionId, offeredTo: null, offerEndsAt: null, closedAt: new Date(nowMs) },
      );
    await this.#parts.states.given(tx, technicianId, nowMs);
    const said = await this.#messages([entryId], tx);
    await tx.getRepository(QueueMessageEntity).delete({ entryId });
    return {
      row,
      saidBefore: said.map((m) => ({
        atMs: m.at.getTime(),
        name: m.technicianId ? (this.#parts.technicians.get(m.technicianId)?.name ?? '') : row.name,
        text: m.text,
      })),
    };
  }

  async #say(row: QueueEntryRow, technicianId: string | null, text: string): Promise<void> {
    if (row.state !== 'waiting') throw new AppError('ENTRY_NOT_WAITING');
    const messages = this.#parts.records.getRepository(QueueMessageEntity);
    if ((await messages.countBy({ entryId: row.id })) >= MAX_MESSAGES) throw new AppError('TOO_MANY_MESSAGES');
    await messages.insert({ id: randomUUID(), entryId: row.id, at: new Date(), technicianId, text });
  }

  #messages(ids: readonly string[], tx: EntityManager = this.#parts.records.manager): Promise<QueueMessageRow[]> {
    return tx.getRepository(QueueMessageEntity).find({ where: { entryId: In([...ids]) }, order: { at: 'ASC' } });
  }

  #view(row: QueueEntryRow, messages: readonly QueueMessageRow[]): QueueEntryView {
    const said = messages
      .filter((m) => m.entryId === row.id)
      .map<QueueMessage>((m) => ({
        atMs: m.at.getTime(),
        isDesk: m.technicianId !== null,
        name: m.technicianId ? (this.#parts.technicians.get(m.technicianId)?.name ?? '') : row.name,
        text: m.text,
      }));
    return {
      id: row.id,
      name: row.name,
      topic: row.topic,
      language: row.language,
      description: row.description,
      ...(row.ticketRef ? { ticketRef: row.ticketRef } : {}),
      wants: row.wants,
      isConfirmed: row.isConfirmed,
      ...(row.callBack ? { callBack: row.callBack } : {}),
      sinceMs: row.since.getTime(),
      ...(row.promisedAt ? { promisedMs: row.promisedAt.getTime() } : {}),
      state: row.state,
      messages: said,
    };
  }

  async #byToken(token: string): Promise<QueueEntryRow> {
    const row = await this.#parts.records.getRepository(QueueEntryEntity).findOneBy({ tokenHash: hashToken(token) });
    if (!row) throw new AppError('ENTRY_NOT_FOUND');
    return row;
  }
}
