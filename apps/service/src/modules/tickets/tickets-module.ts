import type { PolicyFor } from '@porch/core';
import type { Config } from '../../config.ts';
import { defineModule } from '../../module/service-module.ts';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { Technicians } from '../people/technician.ts';
import type { PolicyOf } from '../sessions/policy-of.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { MailTicketSystem } from './mail-ticket-system.ts';
import { NoTicketSystem, RestTicketSystem } from './rest-ticket-system.ts';
import { SessionOutcomes } from './session-outcomes.ts';
import { TicketLists } from './ticket-lists.ts';
import { ticketRoutes } from './ticket-routes.ts';
import type { TicketSystem } from './ticket-system.ts';

type Settings = Pick<Config, 'ticketsUrl' | 'ticketsKey' | 'ticketsMail'>;
interface Needs {
  readonly policyFor: PolicyFor;
  readonly policyOf: PolicyOf;
  readonly config: Settings;
  readonly gateway: MessageGateway;
  readonly outbox: Outbox;
  readonly book: SessionBook;
  readonly technicians: Technicians;
}

function systemOf({ ticketsUrl, ticketsKey, ticketsMail }: Settings, gateway: MessageGateway): TicketSystem {
  if (ticketsUrl && ticketsKey) return new RestTicketSystem(ticketsUrl, ticketsKey);
  return ticketsMail ? new MailTicketSystem(gateway, ticketsMail) : new NoTicketSystem();
}

/** The desk's ticket system: read from, and told how sessions went. */
export const ticketsModule = defineModule({
  name: 'tickets',
  build: ({ config, policyFor, policyOf, gateway, outbox, book, technicians }: Needs) => {
    const ticketSystem = systemOf(config, gateway);
    const hasTicketSystem = !(ticketSystem instanceof NoTicketSystem);
    const ticketLists = new TicketLists(ticketSystem);
    const outcomes = new SessionOutcomes({
      policyFor,
      policyOf,
      hasTicketSystem,
      outbox,
      ticketSystem,
      book,
      technicians,
    });
    return {
      gives: { ticketSystem, ticketLists },
      routes: [{ plugin: ticketRoutes(ticketLists) }],
      alongside: outcomes.alongside,
      carriers: {
        outcome: { carry: ({ ref, outcome }, id) => ticketSystem.logOutcome(ref, outcome, id) },
        newTicket: { carry: (parcel) => outcomes.makeTicket(parcel) },
        remark: { carry: ({ ref, text }, id) => ticketSystem.comment(ref, text, id) },
      },
    };
  },
});
