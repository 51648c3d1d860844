import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
import type { TicketLists } from './ticket-lists.ts';

/** Tickets, as far as the desk may look for them. */
export const ticketRoutes =
  (ticketLists: TicketLists): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.tickets, { may: 'search tickets' }, async ({ query }) => {
      const found = await ticketLists.search(query.words);
      // In the order of the ticket system, which knows best what was meant.
      const places = new Map(found.map((ticket, i) => [ticket, i]));
      return pageOfList(found, query, `tickets ${query.words}`, (ticket) => [places.get(ticket) ?? 0, ticket.ref]);
    });
  };
