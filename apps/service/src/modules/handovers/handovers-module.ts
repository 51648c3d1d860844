import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import { defineModule } from '../../module/service-module.ts';
import { HandoverDesk, type HandoverDeskParts } from './handover-desk.ts';

const handoverRoutes =
  (handovers: HandoverDesk): FastifyPluginAsyncZod =>
  async (app) => {
    app.post(
      '/handovers/:id/:answer',
      {
        config: { may: 'answer a handover' },
        schema: {
          params: z.object({ id: z.uuid(), answer: z.enum(['accept', 'decline']) }),
          response: { 200: z.object({ sessionId: z.string() }) },
        },
      },
      async (request) => ({
        sessionId: await handovers.answer(personOf(request), request.params.id, request.params.answer),
      }),
    );
  };

/** Sessions that go from one technician to another. */
export const handoversModule = defineModule({
  name: 'handovers',
  build: (kit: HandoverDeskParts) => {
    const handovers = new HandoverDesk(kit);
    return { gives: { handovers }, routes: [{ plugin: handoverRoutes(handovers) }] };
  },
});
