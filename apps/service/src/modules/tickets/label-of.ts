import type { TicketView } from '@porch/wire';

/** The records take so much of it. */
const MOST_CHARACTERS = 40;

/** What kind of device a ticket says it is about. */
export const labelOf = (ticket: TicketView | undefined): { deviceLabel?: string } =>
  ticket?.assetLabel ? { deviceLabel: ticket.assetLabel.slice(0, MOST_CHARACTERS) } : {};
