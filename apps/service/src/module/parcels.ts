import type { BookingNotice } from '@porch/core';

/** What a ticket learns of how a session went. */
export interface TicketOutcome {
  readonly outcome: string;
  readonly note: string;
  readonly minutes: number;
  readonly chat: string;
  readonly actions: string;
  readonly sessionId: string;
  readonly ledgerHead: string;
}

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

/** Whoever carries a parcel throws it when the parcel can never arrive: the tries end. */
export class NeverDeliverable extends Error {
  override readonly name = 'NeverDeliverable';
}

/** Who carries one kind of parcel. `NeverDeliverable` ends the tries; any other failure is tried again. */
export interface Carrier<P> {
  carry(payload: P, id: string): Promise<void>;
  heldUp?(payload: P, why: string): Promise<void>;
  givenUp?(payload: P, why: string): Promise<void>;
}
export type Carriers = { readonly [K in ParcelKind]: Carrier<Parcels[K]> };
