import { MyState, MyStateBody, NoticeBody, NoticeView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Parts } from '../app.ts';
import { technicianOf } from '../auth/technician-of.ts';

const One = z.object({ id: z.uuid() });
const Nothing = z.object({});

/** The queue for technicians: where they stand, offers, words before a session, known faults. */
export const queueRoutes: FastifyPluginAsyncZod<Parts> = async (app, { signIns, queue, notices, states, feed }) => {
  const me = technicianOf(signIns);

  app.get('/me/state', { schema: { response: { 200: MyState } } }, async (request) =>
    states.mine((await me(request)).id),
  );
  app.post('/me/state', { schema: { body: MyStateBody, response: { 200: MyState } } }, async (request) => {
    const { id } = await me(request);
    await states.set(id, request.body);
    feed.changed();
    return states.mine(id);
  });
  app.post('/queue/:id/not-now', { schema: { params: One, response: { 200: Nothing } } }, async (request) => {
    await queue.decline(await me(request), request.params.id);
    feed.changed();
    return {};
  });
  app.post(
    '/queue/:id/say',
    {
      schema: {
        params: One,
        body: z.strictObject({ text: z.string().trim().min(1).max(2000) }),
        response: { 200: Nothing },
      },
    },
    async (request) => {
      await queue.sayAsTechnician(await me(request), request.params.id, request.body.text);
      feed.changed();
      return {};
    },
  );
  app.get('/notices', { schema: { response: { 200: z.array(NoticeView) } } }, async (request) => {
    await me(request);
    return notices.open();
  });
  app.post('/notices', { schema: { body: NoticeBody, response: { 200: NoticeView } } }, async (request) => {
    const notice = await notices.put(await me(request), request.body);
    feed.changed();
    return notice;
  });
  app.post('/notices/:id/end', { schema: { params: One, response: { 200: Nothing } } }, async (request) => {
    await me(request);
    await notices.end(request.params.id);
    feed.changed();
    return {};
  });
};
