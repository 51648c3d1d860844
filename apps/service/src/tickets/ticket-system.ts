import type { TicketView } from '@porch/wire';

export interface TicketOutcome {
  readonly outcome: string;
  readonly note: string;
  readonly minutes: number;
  readonly chat: string;
  readonly actions: string;
  readonly sessionId: string;
  readonly ledgerHead: string;
}

/** What the job needs of any ticket system. Every call may reject with TICKET_SYSTEM_DOWN or TICKET_NOT_FOUND. */
export interface TicketSystem {
  search(words: string): Promise<TicketView[]>;
  read(ref: string): Promise<TicketView>;
  assignedTo(email: string): Promise<TicketView[]>;
  /** `deliveryId` makes a repeat harmless. */
  comment(ref: string, text: string, deliveryId: string): Promise<void>;
  logOutcome(ref: string, outcome: TicketOutcome, deliveryId: string): Promise<void>;
}
