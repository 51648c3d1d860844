import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import { defineModule } from '../../module/service-module.ts';
import { CallerDesk, type CallerDeskParts } from './caller-desk.ts';

const callerRoutes =
  (callers: CallerDesk): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.findCallers, { may: 'see who calls' }, ({ body, request }) =>
      callers.find(personOf(request), body.telephone),
    );
    serve(app, api.sessionTelephone, { may: 'read a session' }, async ({ params, request }) => {
      const telephone = await callers.telephoneOf(personOf(request), params.id);
      return telephone === undefined ? {} : { telephone };
    });
  };

/** Who is on the telephone, and where somebody can be called again. */
export const callersModule = defineModule({
  name: 'callers',
  build: (kit: CallerDeskParts) => ({ gives: {}, routes: [{ plugin: callerRoutes(new CallerDesk(kit)) }] }),
});
