import { api, MAX_KEPT_SCREENSHOT_BYTES } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { ScreenshotDesk } from './screenshot-desk.ts';

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
    const may = 'read a session';
    serve(app, api.keepScreenshot, { may, bodyLimit: MAX_BODY_BYTES }, async ({ params, body, request }) => {
      const me = personOf(request);
      const { id } = await desk.read(me, params.id);
      await screenshots.keep(me.id, id, body.screenshotId, Buffer.from(body.png, 'base64'));
      return screenshots.list(id);
    });
    serve(app, api.screenshots, { may }, async ({ params, query, request }) => {
      const { id } = await desk.read(personOf(request), params.id);
      return pageOfList(await screenshots.list(id), query, `screenshots of ${id}`, (one) => [
        one.keptAtMs,
        one.screenshotId,
      ]);
    });
    serve(app, api.screenshot, { may }, async ({ params, request }) => {
      const { id } = await desk.read(personOf(request), params.id);
      return screenshots.read(id, params.screenshotId);
    });
  };
