import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import { defineModule } from '../../module/service-module.ts';
import { LookingBackDesk, type LookingBackParts } from './looking-back-desk.ts';
import { SessionNoteEntity, SessionTieEntity } from './looking-back-tables.ts';
import { lookingBackProjections } from './projections.ts';

const lookingBackRoutes =
  (desk: LookingBackDesk): FastifyPluginAsyncZod =>
  async (app) => {
    const may = 'read a session';
    serve(app, api.earlierSessions, { may }, async ({ params, request }) => ({
      items: await desk.earlier(personOf(request), params.id),
    }));
    serve(app, api.sessionKnowledge, { may }, async ({ params, request }) => ({
      items: await desk.knowledge(personOf(request), params.id),
    }));
  };

/** What is known before anything is touched. */
export const lookingBackModule = defineModule({
  name: 'looking-back',
  tables: [SessionTieEntity, SessionNoteEntity],
  projections: lookingBackProjections,
  build: (kit: LookingBackParts) => ({ gives: {}, routes: [{ plugin: lookingBackRoutes(new LookingBackDesk(kit)) }] }),
});
