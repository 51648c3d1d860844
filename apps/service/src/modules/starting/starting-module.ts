import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import { defineModule } from '../../module/service-module.ts';
import { StartingDesk, type StartingDeskParts } from './starting-desk.ts';

const startingRoutes =
  (starting: StartingDesk): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.startSession, { may: 'start a session' }, ({ body: { deviceId, ...from }, request }) => {
      const me = personOf(request);
      return deviceId ? starting.visit(me, deviceId, from) : starting.start(me, from);
    });
  };

/** How sessions begin. */
export const startingModule = defineModule({
  name: 'starting',
  build: (kit: StartingDeskParts) => ({
    gives: {},
    routes: [{ plugin: startingRoutes(new StartingDesk(kit)) }],
  }),
});
