import type { TicketView } from '@porch/wire';
import type { TicketOutcome } from '../../module/parcels.ts';

export interface NewTicket {
  readonly title: string;
  readonly requester: { readonly name: string; readonly address: string };
  readonly technician: string;
  readonly description: string;
}

/** What the job needs of any ticket system. Every call may reject with TICKET_SYSTEM_DOWN or TICKET_NOT_FOUND. */
export interface TicketSystem {
  search(words: string): Promise<TicketView[]>;
  /** Those whose requester has this number; more may come, and are left out by whoever asks. */
  ofTelephone(telephone: string): Promise<TicketView[]>;
  read(ref: string): Promise<TicketView>;
  assignedTo(email: string): Promise<TicketView[]>;
  /** A ticket for a session that had none: the same again for the same `key`. Undefined when its number is not told. */
  create(ticket: NewTicket, key: string): Promise<string | undefined>;
  /** `deliveryId` makes a repeat harmless. */
  comment(ref: string, text: string, deliveryId: string): Promise<void>;
  logOutcome(ref: string, outcome: TicketOutcome, deliveryId: string): Promise<void>;
}
