import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import { defineModule } from '../../module/service-module.ts';
import { CarefulActDesk, type CarefulActParts } from './careful-act-desk.ts';
import { carefulActs } from './careful-act-projection.ts';
import { CarefulActEntity } from './careful-act-table.ts';

const carefulActRoutes =
  (desk: CarefulActDesk): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.giveSecondYes, { may: 'give a second yes' }, async ({ params, body, request }) => {
      await desk.answer(personOf(request), params.id, params.actId, body.isYes);
      return { sessionId: params.id };
    });
    serve(app, api.lookAtOverride, { may: 'look at an override' }, async ({ params, request }) => {
      await desk.lookAt(personOf(request), params.id, params.actId);
      return { sessionId: params.id };
    });
  };

/** A second person's yes, and what is looked at afterwards. */
export const carefulActsModule = defineModule({
  name: 'careful-acts',
  tables: [CarefulActEntity],
  projections: [carefulActs],
  build: (kit: CarefulActParts) => {
    const carefulActDesk = new CarefulActDesk(kit);
    return { gives: { carefulActDesk }, routes: [{ plugin: carefulActRoutes(carefulActDesk) }] };
  },
});
