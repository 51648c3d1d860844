import { randomUUID } from 'node:crypto';
import {
  decideCancelBooking,
  decideMoveBooking,
  dueReminders,
  evolveBooking,
  isOver,
  isRefusal,
  isTelephone,
  MAX_REMIND_MINUTES,
  mayDo,
  pastReminders,
  type BookingEvent,
  type BookingNotice,
  type BookingState,
  type PolicyFor,
} from '@porch/core';
import { AppError, type BookingBody, type BookingView, type MoveBookingBody } from '@porch/wire';
import { Between, In, MoreThan, type DataSource, type EntityManager } from 'typeorm';
import type { z } from 'zod';
import { databaseNowMs, inTransaction } from '../../db/data-source.ts';
import { mustBeSeen } from '../../http/versions.ts';
import { lockRow } from '../../db/lock-row.ts';
import { BookingEntity, type BookingRow } from './booking-table.ts';
import type { Technician, Technicians } from '../people/technician.ts';
import { permit } from '../../auth/permit.ts';
import type { InvitationDesk } from '../invitations/invitation-desk.ts';
import { isMailAddress } from '../messages/message-gateway.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';
import type { BookingMessages } from './booking-messages.ts';
import { grouped } from '../../module/grouped.ts';
import { momentIn } from './moment-in.ts';
import { bookedEvents } from './booked-events.ts';
import { bookingViews, STAYS_MS } from './booking-views.ts';

const MAX_LISTED = 100;
/** The link of a booking works so long after it should have begun: people are late, and come back. */
const LINK_STAYS_MINUTES = 24 * 60;
const MINUTE_MS = 60_000;

/** It grows with every change, in calendar entries as well. */
export const bookingVersion = ({ sequence }: { readonly sequence: number }): string => `"${sequence}"`;

export interface BookingDeskParts {
  readonly records: DataSource;
  readonly book: SessionBook;
  readonly ticketLists: TicketLists;
  readonly invitations: InvitationDesk;
  readonly messages: BookingMessages;
  readonly policyFor: PolicyFor;
  readonly technicians: Technicians;
}

const stateOf = (row: BookingRow): BookingState =>
  row.isCancelled
    ? { name: 'cancelled', sequence: row.sequence }
    : { name: 'booked', startsAtMs: row.startsAt.getTime(), minutes: row.minutes, sequence: row.sequence };

/** Sessions with a time: made, moved, cancelled, reminded of; each told to the customer with a calendar file. */
export class BookingDesk {
  readonly #parts: BookingDeskParts;

  constructor(parts: BookingDeskParts) {
    this.#parts = parts;
  }

  /** Throws ADDRESS_INVALID, BOOKING_TIME, BOOKING_TIME_SKIPPED, TIME_ZONE_UNKNOWN, NOT_PRESENT. */
  async book(me: Technician, body: BookingBody): Promise<BookingView> {
    const { book, invitations, technicians, policyFor, ticketLists } = this.#parts;
    if (!isMailAddress(body.address)) throw new AppError('ADDRESS_INVALID');
    if (body.telephone && !isTelephone(body.telephone)) throw new AppError('ADDRESS_INVALID');
    const technician = technicians.get(body.technicianId ?? me.id);
    if (!technician) throw new AppError('NOT_PRESENT');
    permit(me, 'book', { ownerId: technician.id, ownerTeam: technician.team });
    const timeZone = body.timeZone ?? policyFor().timeZone;
    const startsAtMs = momentIn(body, timeZone);
    // The same rule as for moving: a moment to come, within a year.
    const moment = decideMoveBooking(
      { name: 'booked', startsAtMs, minutes: body.minutes, sequence: 0 },
      { startsAtMs, minutes: body.minutes },
      Date.now(),
    );
    if (isRefusal(moment)) throw new AppError(moment.refused);
    const id = randomUUID();
    const sessionId = randomUUID();
    const ticket = body.ticketRef ? await ticketLists.read(body.ticketRef) : undefined;
    await book.prepare(sessionId, async (tx, nowMs) => {
      const { row: invitation, event } = await invitations.issue(
        tx,
        sessionId,
        `technician:${me.id}`,
        {
          way: 'calendar',
          address: body.address,
          language: body.language,
          minutes: Math.ceil((startsAtMs - nowMs) / MINUTE_MS) + body.minutes + LINK_STAYS_MINUTES,
        },
        nowMs,
        true,
      );
      await tx.getRepository(BookingEntity).insert({
        id,
        sessionId,
        invitationId: invitation.id,
        technicianId: technician.id,
        customerName: body.customerName,
        address: body.address,
        telephone: body.telephone ? body.telephone : null,
        language: body.language,
        purpose: body.purpose,
        remark: body.remark,
        startsAt: new Date(startsAtMs),
        minutes: body.minutes,
        timeZone,
        sequence: 0,
        isCancelled: false,
        remindMinutes: [...body.remindMinutes],
        reminded: pastReminders(startsAtMs, body.remindMinutes, nowMs),
      });
      await this.#parts.messages.tell(tx, { id, sessionId, sequence: 0, telephone: null }, 'made', nowMs);
      return [...bookedEvents(technician, body, ticket), event];
    });
    return this.#one(await this.#find(id));
  }

  /** `seen`: the version that whoever moves it has seen. Throws CHANGED_MEANWHILE, BOOKING_NOT_FOUND, BOOKING_TIME. */
  async move(me: Technician, id: string, to: z.infer<typeof MoveBookingBody>, seen?: string): Promise<BookingView> {
    return this.#change(me, id, { notice: 'moved', seen }, (row, nowMs) =>
      decideMoveBooking(
        stateOf(row),
        { startsAtMs: momentIn(to, to.timeZone ?? row.timeZone), minutes: to.minutes },
        nowMs,
      ),
    );
  }

  async cancel(me: Technician, id: string, remark: string, seen?: string): Promise<BookingView> {
    return this.#change(me, id, { notice: 'cancelled', seen, remark }, (row) => decideCancelBooking(stateOf(row)));
  }

  /** Throws BOOKING_NOT_FOUND for what is none, or none of theirs. */
  async one(me: Technician, id: string): Promise<BookingView> {
    const row = await this.#find(id);
    if (!this.#mayChange(row, me)) throw new AppError('BOOKING_NOT_FOUND');
    return this.#one(row);
  }

  /** Today's and those to come, of one technician. */
  async of(me: Technician): Promise<BookingView[]> {
    return (await this.ofAll([me.id])).get(me.id) ?? [];
  }
  async ofAll(technicianIds: readonly string[]): Promise<ReadonlyMap<string, BookingView[]>> {
    const rows = await this.#parts.records.getRepository(BookingEntity).find({
      where: {
        technicianId: In([...technicianIds]),
        isCancelled: false,
        startsAt: MoreThan(new Date(Date.now() - STAYS_MS)),
      },
      order: { startsAt: 'ASC' },
      take: MAX_LISTED * technicianIds.length,
    });
    const views = await bookingViews(this.#parts, rows);
    return grouped(technicianIds, views, MAX_LISTED);
  }

  /** Of these sessions, those whose booking was cancelled: nobody has anything to do about them any longer. */
  async cancelledOf(sessionIds: readonly string[]): Promise<ReadonlySet<string>> {
    if (!sessionIds.length) return new Set();
    const rows = await this.#parts.records
      .getRepository(BookingEntity)
      .find({ where: { sessionId: In([...sessionIds]), isCancelled: true }, select: { id: true, sessionId: true } });
    return new Set(rows.map((row) => row.sessionId));
  }

  async erase(tx: EntityManager, sessionId: string): Promise<void> {
    await tx
      .getRepository(BookingEntity)
      .update({ sessionId }, { customerName: '', address: '', telephone: null, purpose: '', remark: '' });
  }

  async calendar(me: Technician, id: string): Promise<string> {
    const row = await this.#find(id);
    if (!this.#mayChange(row, me)) throw new AppError('BOOKING_NOT_FOUND');
    const { invitations, messages } = this.#parts;
    return messages.calendar(row, invitations.linkOf(await invitations.find(row.sessionId, row.invitationId)));
  }

  /** Puts what is due into the outbox. True when anything was. */
  async remind(): Promise<boolean> {
    const { records } = this.#parts;
    const due: BookingRow[] = [];
    // All that anybody can be reminded of by now, page by page, however many there are.
    const untilMs = Date.now() + MAX_REMIND_MINUTES * MINUTE_MS;
    for (let page = 0; ; page++) {
      const rows = await records.getRepository(BookingEntity).find({
        where: { isCancelled: false, startsAt: Between(new Date(), new Date(untilMs)) },
        order: { startsAt: 'ASC', id: 'ASC' },
        skip: page * MAX_LISTED,
        take: MAX_LISTED,
      });
      due.push(...rows.filter((r) => dueReminders({ ...r, startsAtMs: r.startsAt.getTime() }, Date.now()).length));
      if (rows.length < MAX_LISTED) break;
    }
    for (const { id } of due)
      await inTransaction(records, async (tx) => {
        const row = await lockRow(tx, BookingEntity, id);
        const nowMs = await databaseNowMs(tx);
        if (!row || row.isCancelled) return;
        const minutes = dueReminders({ ...row, startsAtMs: row.startsAt.getTime() }, nowMs);
        if (!minutes.length) return;
        await tx.getRepository(BookingEntity).update({ id }, { reminded: [...row.reminded, ...minutes] });
        await this.#parts.messages.tell(tx, row, 'reminder', nowMs);
      });
    return due.length > 0;
  }

  async #change(
    me: Technician,
    id: string,
    { notice, seen, remark }: { notice: BookingNotice; seen: string | undefined; remark?: string },
    decide: (row: BookingRow, nowMs: number) => ReturnType<typeof decideMoveBooking>,
  ): Promise<BookingView> {
    const { records, invitations, book } = this.#parts;
    const row = await inTransaction(records, async (tx) => {
      const nowMs = await databaseNowMs(tx);
      const before = await lockRow(tx, BookingEntity, id);
      if (!before || !this.#mayChange(before, me)) throw new AppError('BOOKING_NOT_FOUND');
      mustBeSeen(seen, bookingVersion(before));
      const decision = decide(before, nowMs);
      if (isRefusal(decision)) throw new AppError(decision.refused);
      if (!decision.length) return before;
      const next = decision.reduce<BookingState>((s, e: BookingEvent) => evolveBooking(s, e) ?? s, stateOf(before));
      const change: Partial<BookingRow> =
        next.name === 'cancelled'
          ? { isCancelled: true, sequence: next.sequence, remark: remark ?? '' }
          : {
              startsAt: new Date(next.startsAtMs),
              minutes: next.minutes,
              sequence: next.sequence,
              // It is another time: whoever was reminded of the old one is reminded of the new one.
              reminded: pastReminders(next.startsAtMs, before.remindMinutes, nowMs),
            };
      await tx.getRepository(BookingEntity).update({ id }, change);
      if (next.name === 'booked')
        await invitations.extend(
          tx,
          before.invitationId,
          new Date(next.startsAtMs + (next.minutes + LINK_STAYS_MINUTES) * MINUTE_MS),
        );
      await this.#parts.messages.tell(tx, { ...before, sequence: next.sequence }, notice, nowMs);
      return { ...before, ...change };
    });
    if (row.isCancelled) {
      const { state } = await book.open(row.sessionId);
      const owner = this.#parts.technicians.get(state.technicianId ?? '');
      if (owner && !isOver(state)) await invitations.withdraw(owner, row.sessionId, row.invitationId);
      // Nobody is to come any longer, so nothing stays prepared; a session that was begun all the same goes on.
      await book.act(row.sessionId, ({ state: now }) =>
        now.phase.name === 'prepared'
          ? [
              {
                type: 'sessionEnded',
                by: `technician:${me.id}`,
                reason: 'technician',
                why: 'the booking was cancelled',
              },
            ]
          : [],
      );
    }
    return this.#one(row);
  }

  #mayChange(row: BookingRow, me: Technician): boolean {
    const ownerTeam = this.#parts.technicians.get(row.technicianId)?.team;
    return mayDo(me, 'change a booking', { ownerId: row.technicianId, ownerTeam });
  }

  async #find(id: string): Promise<BookingRow> {
    const row = await this.#parts.records.getRepository(BookingEntity).findOneBy({ id });
    if (!row) throw new AppError('BOOKING_NOT_FOUND');
    return row;
  }

  async #one(row: BookingRow): Promise<BookingView> {
    const [view] = await bookingViews(this.#parts, [row]);
    if (!view) throw new AppError('BOOKING_NOT_FOUND');
    return view;
  }
}
