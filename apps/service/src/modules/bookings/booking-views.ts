import { wallTimeAt } from '@porch/core';
import type { BookingView } from '@porch/wire';
import type { InvitationDesk } from '../invitations/invitation-desk.ts';
import type { Technicians } from '../people/technician.ts';
import type { BookingRow } from './booking-table.ts';

/** A booking that began so long ago is no longer on anybody's porch. */
export const STAYS_MS = 3 * 3_600_000;

export interface BookingViewsParts {
  readonly technicians: Technicians;
  readonly invitations: Pick<InvitationDesk, 'byIds'>;
}

/** Bookings as technicians see them, with how far the mail of each came. */
export async function bookingViews(
  { technicians, invitations: desk }: BookingViewsParts,
  rows: readonly BookingRow[],
): Promise<BookingView[]> {
  const invitations = await desk.byIds(rows.map((r) => r.invitationId));
  return rows.map((row) => {
    const invitation = invitations.find((i) => i.id === row.invitationId);
    return {
      id: row.id,
      sessionId: row.sessionId,
      technicianId: row.technicianId,
      technicianName: technicians.get(row.technicianId)?.name ?? '',
      customerName: row.customerName,
      address: row.address,
      ...(row.telephone ? { telephone: row.telephone } : {}),
      language: row.language,
      purpose: row.purpose,
      startsAtMs: row.startsAt.getTime(),
      minutes: row.minutes,
      timeZone: row.timeZone,
      wallTime: wallTimeAt(row.startsAt.getTime(), row.timeZone),
      sequence: row.sequence,
      isCancelled: row.isCancelled,
      ...(invitation ? { delivery: invitation.delivery } : {}),
      ...(invitation?.why ? { why: invitation.why } : {}),
    };
  });
}
