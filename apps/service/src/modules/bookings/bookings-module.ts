import type { PolicyFor } from '@porch/core';
import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { InvitationDesk } from '../invitations/invitation-desk.ts';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { Technicians } from '../people/technician.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';
import { BookedTelephones } from './booked-telephones.ts';
import { BookingDesk } from './booking-desk.ts';
import { BookingMessages } from './booking-messages.ts';
import { bookingRoutes } from './booking-routes.ts';
import { BookingEntity } from './booking-table.ts';

const REMINDING_PAUSE_MS = 5_000;

interface Needs extends Pick<Kit, 'records' | 'changes' | 'publicUrl'> {
  readonly policyFor: PolicyFor;
  readonly config: Pick<Config, 'mailFrom'>;
  readonly book: SessionBook;
  readonly ticketLists: TicketLists;
  readonly invitations: InvitationDesk;
  readonly outbox: Outbox;
  readonly gateway: MessageGateway;
  readonly technicians: Technicians;
}

/** Sessions with a time. */
export const bookingsModule = defineModule({
  name: 'bookings',
  tables: [BookingEntity],
  build: (kit: Needs) => {
    const changed = kit.changes.of('bookings', 'sessions');
    const messages = new BookingMessages({ ...kit, mailFrom: kit.config.mailFrom });
    const bookings = new BookingDesk({ ...kit, messages });
    return {
      gives: { bookings, bookedTelephones: new BookedTelephones(kit) },
      routes: [{ plugin: bookingRoutes({ bookings, changed }) }],
      erase: (tx, sessionId) => bookings.erase(tx, sessionId),
      carriers: { booking: messages.carrier },
      repeated: [
        {
          what: 'reminding of bookings',
          isShared: true,
          pauseMs: REMINDING_PAUSE_MS,
          work: async () => {
            if (await bookings.remind()) changed();
          },
        },
      ],
    };
  },
});
