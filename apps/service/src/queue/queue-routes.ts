import { MyState, MyStateBody, NoticeBody, NoticeView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Parts } from '../app.ts';
import { personOf } from '../auth/guard.ts';

const One = z.object({ id: z.uuid() });
const Nothing = z.object({});

/** The queue for technicians: where they stand, offers, words before a session, known faults. */
export const queueRoutes: FastifyPluginAsyncZod<Parts> = async (app, { queue, notices, states, feed }) => {
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
    '/notices',
    { config: { may: 'see known faults' }, schema: { response: { 200: z.array(NoticeView) } } },
    async () => {
      return notices.open();
    },
  );
  app.post(
    '/notices',
    { config: { may: 'publish a known fault' }, schema: { body: NoticeBody, response: { 200: NoticeView } } },
    async (request) => {
      const notice = await notices.put(personOf(request), request.body);
      feed.changed();
      return notice;
    },
  );
  app.post(
    '/notices/:id/end',
    { config: { may: 'end a known fault' }, schema: { params: One, response: { 200: Nothing } } },
    async (request) => {
      await notices.end(personOf(request), request.params.id);
      feed.changed();
      return {};
    },
  );
};
