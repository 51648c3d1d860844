import { StartBody, Started } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { defineModule } from '../../module/service-module.ts';
import { StartingDesk, type StartingDeskParts } from './starting-desk.ts';

const startingRoutes =
  (starting: StartingDesk): FastifyPluginAsyncZod =>
  async (app) => {
    app.post(
      '/sessions',
      { config: { may: 'start a session' }, schema: { body: StartBody, response: { 200: Started } } },
      async (request) => {
        const { deviceId, ...from } = request.body;
        const me = personOf(request);
        return deviceId ? starting.visit(me, deviceId, from) : starting.start(me, from);
      },
    );
  };

/** How sessions begin. */
export const startingModule = defineModule({
  name: 'starting',
  build: (kit: StartingDeskParts) => ({
    gives: {},
    routes: [{ plugin: startingRoutes(new StartingDesk(kit)) }],
  }),
});
