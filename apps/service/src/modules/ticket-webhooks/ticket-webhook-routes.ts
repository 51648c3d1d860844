import { Language, type PolicyFor } from '@porch/core';
import { AppError } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import type { DataSource } from 'typeorm';
import { z } from 'zod';
import { keepBodiesAsText, readWebhook, webhookBase } from '../../http/signed-webhook.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';

export interface TicketWebhookRoutesParts {
  readonly records: DataSource;
  readonly ticketLists: TicketLists;
  readonly queue: QueueDesk;
  readonly policyFor: PolicyFor;
  /** Both sides share it. */
  readonly ticketsKey: string;
  changed(): void;
  publicUrl(): string;
}

const TicketNews = z.strictObject({
  ...webhookBase,
  event: z.enum(['ticketChanged', 'ticketMade']),
  ref: z.string().max(40),
});

/** The customer pressed "Get help now" on their own ticket, where they are signed in. */
const HelpWanted = z.strictObject({
  ...webhookBase,
  ref: z.string().max(40),
  requester: z.object({ name: z.string().min(1).max(120), address: z.string().max(200) }),
  language: Language.default('en'),
});

/** The ticket system says that something changed, or that a ticket's requester wants help now. */
export const ticketWebhookRoutes =
  ({
    records,
    ticketLists,
    changed,
    queue,
    policyFor,
    publicUrl,
    ticketsKey,
  }: TicketWebhookRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    keepBodiesAsText(app);
    app.post('/webhooks/help-wanted', async (request) => {
      const { ref, requester, language } = await readWebhook(records, ticketsKey, HelpWanted, request);
      const ticket = await ticketLists.read(ref);
      if (!ticket?.requester.address) throw new AppError('TICKET_NOT_FOUND');
      // Only whoever the ticket itself names gets help for it, whatever the webhook says.
      const isRequester = ticket.requester.address.toLowerCase() === requester.address.toLowerCase();
      if (!isRequester) throw new AppError('TICKET_NOT_FOUND');
      const { topics } = policyFor();
      const { token } = await queue.ask({
        ...requester,
        language,
        topic:
          (topics.find(({ topic }) => ticket.title.toLowerCase().includes(topic.toLowerCase())) ?? topics.at(-1))
            ?.topic ?? '',
        description: ticket.title,
        ticketRef: ticket.ref,
        wants: 'screen',
        // The ticket system knows who is signed in there.
        isConfirmed: true,
      });
      changed();
      // In the fragment: it reaches no log on the way.
      return { url: `${publicUrl()}/help#place=${token ?? ''}` };
    });
    app.post('/webhooks/tickets', async (request) => {
      await readWebhook(records, ticketsKey, TicketNews, request);
      ticketLists.expire();
      changed();
      return {};
    });
  };
