import { CodeView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { SessionCodes } from './session-codes.ts';

const OneSession = z.object({ id: z.uuid() });

/** The one-time code of a session, for whoever leads it. */
export const codeRoutes =
  (sessionCodes: SessionCodes): FastifyPluginAsyncZod =>
  async (app) => {
    app.post(
      '/sessions/:id/code',
      { config: { may: 'invite into a session' }, schema: { params: OneSession, response: { 200: CodeView } } },
      async (request) => sessionCodes.renew(personOf(request), request.params.id),
    );
    app.post(
      '/sessions/:id/code/withdraw',
      { config: { may: 'invite into a session' }, schema: { params: OneSession, response: { 200: z.object({}) } } },
      async (request) => {
        await sessionCodes.withdraw(personOf(request), request.params.id);
        return {};
      },
    );
  };
