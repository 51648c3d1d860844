import { PorchView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { technicianToken } from '../../auth/technician-of.ts';
import type { OpenConsoles } from '../people/open-consoles.ts';
import type { SignIns } from '../people/sign-in.ts';
import type { DeskFeed } from './desk-feed.ts';
import { porchFor, type PorchParts } from './porch-view.ts';

export interface PorchRoutesParts extends PorchParts {
  readonly feed: DeskFeed;
  readonly signIns: SignIns;
  readonly consoles: OpenConsoles;
}

/** The porch, once and as it changes. */
export const porchRoutes =
  (parts: PorchRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    const { feed, signIns, consoles } = parts;
    app.get('/porch', { config: { may: 'see the porch' }, schema: { response: { 200: PorchView } } }, async (request) =>
      porchFor(personOf(request), parts),
    );
    app.get('/feed', { config: { may: 'see the porch' }, schema: { hide: true } }, async (request, reply) => {
      const technician = personOf(request);
      reply.hijack();
      reply.raw.writeHead(200, {
        'content-type': 'text/event-stream',
        'cache-control': 'no-store',
        'x-accel-buffering': 'no',
      });
      reply.raw.on('close', consoles.opened(technician.id));
      // Looked at anew each time: who signed out meanwhile is told nothing more.
      const read = async () => porchFor((await signIns.whoHas(technicianToken(request))).technician, parts);
      if (!feed.add(reply.raw, request.signedIn?.signInId ?? '', read)) reply.raw.end();
    });
  };
