import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { serve } from '../../http/serve.ts';
import type { SessionCodes } from './session-codes.ts';

/** The one-time code of a session, for whoever leads it. */
export const codeRoutes =
  (sessionCodes: SessionCodes): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.newCode, { may: 'invite into a session' }, ({ params, request }) =>
      sessionCodes.renew(personOf(request), params.id),
    );
    serve(app, api.withdrawCode, { may: 'invite into a session' }, ({ params, request }) =>
      sessionCodes.withdraw(personOf(request), params.id),
    );
  };
