import { isSameTelephone } from '@porch/core';
import type { BookingView } from '@porch/wire';
import { IsNull, MoreThan, Not, type DataSource } from 'typeorm';
import { BookingEntity } from './booking-table.ts';
import { bookingViews, STAYS_MS, type BookingViewsParts } from './booking-views.ts';

/** Numbers are written in many ways; so many bookings are compared. */
const MAX_LOOKED_THROUGH = 2_000;
const MAX_FOUND = 20;

export interface BookedTelephonesParts extends BookingViewsParts {
  readonly records: DataSource;
}

/** Telephone numbers as they were given with bookings. */
export class BookedTelephones {
  readonly #parts: BookedTelephonesParts;

  constructor(parts: BookedTelephonesParts) {
    this.#parts = parts;
  }

  /** Bookings of today and to come of whoever this number stands for. */
  async of(telephone: string): Promise<BookingView[]> {
    const rows = await this.#parts.records.getRepository(BookingEntity).find({
      where: { telephone: Not(IsNull()), isCancelled: false, startsAt: MoreThan(new Date(Date.now() - STAYS_MS)) },
      order: { startsAt: 'ASC' },
      take: MAX_LOOKED_THROUGH,
    });
    const theirs = rows.filter((row) => isSameTelephone(row.telephone ?? '', telephone));
    return bookingViews(this.#parts, theirs.slice(0, MAX_FOUND));
  }

  /** The number that was given with the booking that this session is for. */
  async ofSession(sessionId: string): Promise<string | undefined> {
    const row = await this.#parts.records.getRepository(BookingEntity).findOneBy({ sessionId });
    return row?.telephone ?? undefined;
  }
}
