import { AppError, SignedRelease } from '@porch/wire';
import type { FastifyReply, FastifyRequest } from 'fastify';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { DoorPasses } from '../passes/door-passes.ts';
import type { ReleaseShelf } from './release-shelf.ts';

/** A large file: who wants more of them within a minute is no customer. */
const DOWNLOADS_PER_MINUTE = 20;

export interface DownloadRoutesParts {
  readonly shelf: ReleaseShelf;
  readonly passes: DoorPasses;
  publicUrl(): string;
}

/** Doorstep as a file: for one session, with its name saying which, or plainly, for those that update themselves. */
export const downloadRoutes =
  (parts: DownloadRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    const { shelf, passes, publicUrl } = parts;
    const limited = { rateLimit: { max: DOWNLOADS_PER_MINUTE, timeWindow: 60_000 } };

    function send(request: FastifyRequest, reply: FastifyReply, name: string): FastifyReply {
      const isCompressed = /\bgzip\b/.test(request.headers['accept-encoding'] ?? '');
      if (isCompressed) void reply.header('content-encoding', 'gzip');
      return reply
        .type('application/octet-stream')
        .header('vary', 'accept-encoding')
        .header('cache-control', 'no-store')
        .header('content-disposition', `attachment; filename="${name}"`)
        .send(shelf.open(isCompressed));
    }

    app.get('/doorstep/release.json', { schema: { response: { 200: SignedRelease } } }, () => shelf.signed);
    app.get('/doorstep/file', { config: limited }, (request, reply) => send(request, reply, 'doorstep'));
    app.get(
      '/:token',
      { config: limited, schema: { params: z.object({ token: z.string().max(100) }) } },
      async (request, reply) => {
        const { token } = request.params;
        // Fetching uses nothing up: scanners fetch, too. Joining does.
        const pass = await passes.findAny(token);
        if (pass?.way !== 'download' || pass.expiresAt.getTime() <= Date.now())
          throw new AppError('INVITATION_UNKNOWN');
        const origin = Buffer.from(new URL(publicUrl()).origin).toString('base64url');
        return send(request, reply, `doorstep.${origin}.${token}`);
      },
    );
  };
