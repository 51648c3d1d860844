import { TicketView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { TicketLists } from './ticket-lists.ts';

/** Tickets, as far as the desk may look for them. */
export const ticketRoutes =
  (ticketLists: TicketLists): FastifyPluginAsyncZod =>
  async (app) => {
    app.get(
      '/tickets',
      {
        config: { may: 'search tickets' },
        schema: {
          querystring: z.object({ words: z.string().max(200).default('') }),
          response: { 200: z.array(TicketView) },
        },
      },
      async (request) => ticketLists.search(request.query.words),
    );
  };
