import type { SessionEvent } from '@porch/core';
import type { BookingBody, TicketView } from '@porch/wire';
import { labelOf } from '../tickets/label-of.ts';
import type { Technician } from '../people/technician.ts';

/** The first entries of a session that is booked: who it is with, and whom it is for. */
export const bookedEvents = (
  technician: Technician,
  about: Pick<BookingBody, 'customerName' | 'address' | 'purpose' | 'language'>,
  ticket: TicketView | undefined,
): SessionEvent[] => [
  {
    type: 'sessionPrepared',
    by: `technician:${technician.id}`,
    technicianId: technician.id,
    behind: ticket ? 'ticket' : 'nothing',
    language: about.language,
    ...(ticket ? { ticketRef: ticket.ref } : {}),
    ...labelOf(ticket),
    personal: {
      technicianName: technician.name,
      purpose: about.purpose,
      ...(ticket?.asset ? { asset: ticket.asset } : {}),
    },
  },
  {
    type: 'customerExpected',
    by: `technician:${technician.id}`,
    personal: { customerName: about.customerName, customerAddress: about.address },
  },
];
