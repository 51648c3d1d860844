import type { TicketView } from '@porch/wire';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { TicketOutcome } from '../../module/parcels.ts';
import type { NewTicket, TicketSystem } from './ticket-system.ts';

/**
 * For ticket systems that nothing but mail reaches: comments and outcomes are mails whose subject carries the ticket's
 * number in brackets, by which such systems file them. Nothing can be read this way, so a ticket is taken at its word.
 */
export class MailTicketSystem implements TicketSystem {
  readonly #gateway: MessageGateway;
  readonly #address: string;

  constructor(gateway: MessageGateway, address: string) {
    this.#gateway = gateway;
    this.#address = address;
  }

  search = (): Promise<TicketView[]> => Promise.resolve([]);
  ofTelephone = (): Promise<TicketView[]> => Promise.resolve([]);
  assignedTo = (): Promise<TicketView[]> => Promise.resolve([]);

  /** Only its number is known; nobody stands behind it as its requester. */
  read = (ref: string): Promise<TicketView> =>
    Promise.resolve({
      ref,
      title: `Ticket ${ref}`,
      state: 'unknown',
      requester: { name: '', address: '' },
      description: '',
    });

  /** Whoever takes the mail gives the number; it never comes back here. */
  async create(ticket: NewTicket): Promise<undefined> {
    const { requester, title, description } = ticket;
    await this.#mail(title, `${requester.name} ${requester.address}\n\n${description}`);
    return undefined;
  }

  comment = (ref: string, text: string): Promise<void> => this.#mail(`[${ref}] Support session`, text);

  logOutcome = (ref: string, o: TicketOutcome): Promise<void> =>
    this.#mail(`[${ref}] Support session: ${o.outcome}`, outcomeText(o));

  #mail = (subject: string, text: string): Promise<void> =>
    this.#gateway.mail({ to: this.#address, subject: subject.replace(/\s+/g, ' ').slice(0, 200), text });
}

/** An outcome as plain text, for systems that keep text alone. */
export const outcomeText = (o: TicketOutcome): string =>
  [
    `Outcome: ${o.outcome}, ${o.minutes} min`,
    o.note,
    `What was done:\n${o.actions}`,
    ...(o.chat ? [`Chat:\n${o.chat}`] : []),
    `Session ${o.sessionId}, ledger head ${o.ledgerHead}`,
  ].join('\n\n');
