import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Parts } from '../app.ts';
import { keepBodiesAsText, readWebhook, webhookBase } from '../http/signed-webhook.ts';

const TicketNews = z.strictObject({
  ...webhookBase,
  event: z.enum(['ticketChanged', 'ticketMade']),
  ref: z.string().max(40),
});

/** The ticket system says that something changed. */
export const webhookRoutes: FastifyPluginAsyncZod<Parts & { ticketsKey: string }> = async (
  app,
  { records, ticketLists, feed, ticketsKey },
) => {
  keepBodiesAsText(app);
  app.post('/webhooks/tickets', { schema: { hide: true } }, async (request) => {
    await readWebhook(records, ticketsKey, TicketNews, request);
    ticketLists.expire();
    feed.changed();
    return {};
  });
};
