import { api } from '@porch/wire';
import type { FastifyReply, FastifyRequest } from 'fastify';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import type { OpenConsoles } from '../people/open-consoles.ts';
import type { DeskFeed } from './desk-feed.ts';
import type { PorchBoard } from './porch-board.ts';

export interface PorchRoutesParts {
  /** One that has read nothing yet. */
  newBoard(): PorchBoard;
  readonly feed: DeskFeed;
  readonly consoles: OpenConsoles;
}

/** The porch, once and as it changes. */
export const porchRoutes =
  ({ feed, consoles, newBoard }: PorchRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    function follow(request: FastifyRequest, reply: FastifyReply, wantsWhole: boolean): void {
      const { id } = personOf(request);
      reply.hijack();
      reply.raw.writeHead(200, {
        'content-type': 'text/event-stream',
        'cache-control': 'no-store',
        'x-accel-buffering': 'no',
      });
      reply.raw.on('close', consoles.opened(id));
      const who = { signInId: request.signedIn?.signInId ?? '', technicianId: id, wantsWhole };
      if (!feed.add(reply.raw, who)) reply.raw.end();
    }

    serve(app, api.porch, { may: 'see the porch' }, async ({ request }) => {
      const me = personOf(request);
      const board = newBoard();
      await board.refresh({}, [me]);
      return board.viewOf(me);
    });
    serve(app, api.porchChanges, { may: 'see the porch' }, ({ request, reply }) => follow(request, reply, false));
    // Pages of the release before ask here, and want it whole.
    app.get('/feed', { config: { may: 'see the porch' } }, (request, reply) => follow(request, reply, true));
  };
