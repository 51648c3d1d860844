import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import { defineModule } from '../../module/service-module.ts';
import { HandoverDesk, type HandoverDeskParts } from './handover-desk.ts';

const handoverRoutes =
  (handovers: HandoverDesk): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.answerHandover, { may: 'answer a handover' }, async ({ params, request }) => ({
      sessionId: await handovers.answer(personOf(request), params.id, params.answer),
    }));
  };

/** Sessions that go from one technician to another. */
export const handoversModule = defineModule({
  name: 'handovers',
  build: (kit: HandoverDeskParts) => {
    const handovers = new HandoverDesk(kit);
    return { gives: { handovers }, routes: [{ plugin: handoverRoutes(handovers) }] };
  },
});
