import type { PolicyFor } from '@porch/core';
import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';
import { ticketWebhookRoutes } from './ticket-webhook-routes.ts';

interface Needs extends Pick<Kit, 'records' | 'changes' | 'publicUrl'> {
  readonly config: Pick<Config, 'ticketsKey'>;
  readonly policyFor: PolicyFor;
  readonly queue: QueueDesk;
  readonly ticketLists: TicketLists;
}

/** What the ticket system says by itself. Without a key shared with it, nothing is listened to. */
export const ticketWebhooksModule = defineModule({
  name: 'ticket-webhooks',
  build: ({ config: { ticketsKey }, policyFor, records, changes, publicUrl, queue, ticketLists }: Needs) => ({
    gives: {},
    routes: ticketsKey
      ? [
          {
            plugin: ticketWebhookRoutes({
              records,
              ticketLists,
              queue,
              policyFor,
              ticketsKey,
              changed: changes.of('tickets', 'waiting'),
              publicUrl,
            }),
          },
        ]
      : [],
  }),
});
