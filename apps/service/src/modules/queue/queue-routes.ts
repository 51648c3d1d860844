import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import type { QueueDesk } from './queue-desk.ts';
import type { TechnicianStates } from './technician-states.ts';

export interface QueueRoutesParts {
  readonly queue: QueueDesk;
  readonly states: TechnicianStates;
  changed(): void;
}

/** The queue for technicians: where they stand, offers, words before a session. */
export const queueRoutes =
  ({ queue, states, changed }: QueueRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.myState, { may: 'say where they are' }, ({ request }) => states.mine(personOf(request).id));
    serve(app, api.setMyState, { may: 'say where they are' }, async ({ body, request }) => {
      const { id } = personOf(request);
      await states.set(id, body);
      changed();
      return states.mine(id);
    });
    serve(app, api.notNow, { may: 'pass an offer on' }, async ({ params, request }) => {
      await queue.decline(personOf(request), params.id);
      changed();
    });
    serve(app, api.sayToEntry, { may: 'write to somebody waiting' }, async ({ params, body, request }) => {
      await queue.sayAsTechnician(personOf(request), params.id, body.text);
      changed();
    });
  };
