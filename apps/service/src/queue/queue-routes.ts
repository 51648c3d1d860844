import { MyState, MyStateBody, KnownFaultBody, KnownFaultView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Parts } from '../parts.ts';
import { personOf } from '../auth/guard.ts';

const One = z.object({ id: z.uuid() });
const Nothing = z.object({});

/** The queue for technicians: where they stand, offers, words before a session, known faults. */
export const queueRoutes: FastifyPluginAsyncZod<Parts> = async (app, { queue, knownFaults, states, feed }) => {
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
      feed.changed();
      return states.mine(id);
    },
  );
  app.post(
    '/queue/:id/not-now',
    { config: { may: 'pass an offer on' }, schema: { params: One, response: { 200: Nothing } } },
    async (request) => {
      await queue.decline(personOf(request), request.params.id);
      feed.changed();
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
      feed.changed();
      return {};
    },
  );
  app.get(
    '/known-faults',
    { config: { may: 'see known faults' }, schema: { response: { 200: z.array(KnownFaultView) } } },
    async () => {
      return knownFaults.open();
    },
  );
  app.post(
    '/known-faults',
    { config: { may: 'publish a known fault' }, schema: { body: KnownFaultBody, response: { 200: KnownFaultView } } },
    async (request) => {
      const fault = await knownFaults.put(personOf(request), request.body);
      feed.changed();
      return fault;
    },
  );
  app.post(
    '/known-faults/:id/end',
    { config: { may: 'end a known fault' }, schema: { params: One, response: { 200: Nothing } } },
    async (request) => {
      await knownFaults.end(personOf(request), request.params.id);
      feed.changed();
      return {};
    },
  );
};
