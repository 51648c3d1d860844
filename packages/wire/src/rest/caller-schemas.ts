import { isTelephone } from '@porch/core';
import { z } from 'zod';
import { BookingView, DeviceView, QueueEntryView, SessionView } from './rest-schemas.ts';
import { TicketView } from './ticket-view.ts';

/* Who is on the telephone. */

/** In a body and not in an address: addresses are written down by everything they pass. */
export const CallerQuestion = z.strictObject({
  telephone: z.string().trim().max(40).refine(isTelephone, 'a telephone number has 6 to 15 digits'),
});

/** Somebody whom a number stands for, and what the desk has of them. */
export const CallerView = z.object({
  name: z.string(),
  /** Missing when they gave none. */
  address: z.string().optional(),
  /** Where the number stands: they gave it there, or somebody did for them. */
  knownFrom: z.array(z.enum(['queue', 'booking', 'ticket'])),
  waiting: z.array(QueueEntryView),
  bookings: z.array(BookingView),
  tickets: z.array(TicketView),
  devices: z.array(DeviceView),
  /** Of customers with this name, those that the asker may read; the last prepared first. */
  sessions: z.array(SessionView),
});
export type CallerView = z.infer<typeof CallerView>;
export const CallersFound = z.object({
  people: z.array(CallerView),
  /** Why somebody may be missing, in words. */
  ticketTrouble: z.string().optional(),
});
export type CallersFound = z.infer<typeof CallersFound>;

/** Where the customer of a session can be called; nothing when nobody gave a number. */
export const SessionTelephone = z.object({ telephone: z.string().optional() });
