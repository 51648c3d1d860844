import { MyState, MyStateBody } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { QueueDesk } from './queue-desk.ts';
import type { TechnicianStates } from './technician-states.ts';

const One = z.object({ id: z.uuid() });
const Nothing = z.object({});

export interface QueueRoutesParts {
  readonly queue: QueueDesk;
  readonly states: TechnicianStates;
  changed(): void;
}

/** The queue for technicians: where they stand, offers, words before a session. */
export const queueRoutes =
  ({ queue, states, changed }: QueueRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    app.get(
      '/me/state',
      { config: { may: 'say where they are' }, schema: { response: { 200: MyState } } },
      async (request) => states.mine(personOf(request).id),
    );
    app.post(
      '/me/state',
      { config: { may: 'say where they are' }, schema: { body: MyStateBody, response: { 200: MyState } } },
      async (request) => {
        const { id } = personOf(request);
        await states.set(id, request.body);
        changed();
        return states.mine(id);
      },
    );
    app.post(
      '/queue/:id/not-now',
      { config: { may: 'pass an offer on' }, schema: { params: One, response: { 200: Nothing } } },
      async (request) => {
        await queue.decline(personOf(request), request.params.id);
        changed();
        return {};
      },
    );
    app.post(
      '/queue/:id/say',
      {
        config: { may: 'write to somebody waiting' },
        schema: {
          params: One,
          body: z.strictObject({ text: z.string().trim().min(1).max(2000) }),
          response: { 200: Nothing },
        },
      },
      async (request) => {
        await queue.sayAsTechnician(personOf(request), request.params.id, request.body.text);
        changed();
        return {};
      },
    );
  };
