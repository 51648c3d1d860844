import { KeepScreenshotBody, KeptScreenshot, MAX_KEPT_SCREENSHOT_BYTES } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { ScreenshotDesk } from './screenshot-desk.ts';

const OneSession = z.object({ id: z.uuid() });
const OneScreenshot = z.object({ id: z.uuid(), screenshotId: z.uuid() });
/** Base64 is a third larger than what it stands for. */
const MAX_BODY_BYTES = Math.ceil(MAX_KEPT_SCREENSHOT_BYTES * 1.4);

export interface ScreenshotRoutesParts {
  readonly desk: SessionDesk;
  readonly screenshots: ScreenshotDesk;
}

/** Screenshots in the records of a session, for those who may read it. */
export const screenshotRoutes =
  ({ desk, screenshots }: ScreenshotRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    app.post(
      '/sessions/:id/screenshots',
      {
        bodyLimit: MAX_BODY_BYTES,
        config: { may: 'read a session' },
        schema: { params: OneSession, body: KeepScreenshotBody, response: { 200: z.array(KeptScreenshot) } },
      },
      async (request) => {
        const me = personOf(request);
        const { id } = await desk.read(me, request.params.id);
        const { screenshotId, png } = request.body;
        await screenshots.keep(me.id, id, screenshotId, Buffer.from(png, 'base64'));
        return screenshots.list(id);
      },
    );
    app.get(
      '/sessions/:id/screenshots',
      { config: { may: 'read a session' }, schema: { params: OneSession, response: { 200: z.array(KeptScreenshot) } } },
      async (request) => screenshots.list((await desk.read(personOf(request), request.params.id)).id),
    );
    app.get(
      '/sessions/:id/screenshots/:screenshotId',
      { config: { may: 'read a session' }, schema: { params: OneScreenshot } },
      async (request, reply) => {
        const { id } = await desk.read(personOf(request), request.params.id);
        const png = await screenshots.read(id, request.params.screenshotId);
        return reply.type('image/png').header('cache-control', 'no-store').send(png);
      },
    );
  };
