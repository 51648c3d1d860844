import { api, AppError } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { serve } from '../../http/serve.ts';
import type { Changes } from '../../module/changes.ts';
import type { KnownFaultDesk } from '../known-faults/known-fault-desk.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import { signInOf, type SignInParts } from './customer-sign-in.ts';

/** What a page that was never closed may ask at most; each look at the queue is one. */
const REQUESTS_PER_MINUTE = 20;

export interface RequestRoutesParts extends SignInParts {
  readonly queue: QueueDesk;
  readonly knownFaults: KnownFaultDesk;
  readonly changes: Changes;
}

/** Asking for help, and waiting. */
export const requestRoutes =
  (parts: RequestRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    const { queue, knownFaults, changes } = parts;
    const limited = { rateLimit: { max: REQUESTS_PER_MINUTE, timeWindow: 60_000 } };
    serve(app, api.request, limited, async ({ body, request }) => {
      const { person, needsSignIn } = signInOf(request, parts);
      if (needsSignIn && !person) throw new AppError('DIRECTORY_NEEDED');
      // Whom the directory knows is who it says, whatever was typed.
      const status = await queue.ask({ ...body, ...person, isConfirmed: person !== undefined });
      changes.changed({ parts: ['waiting'] });
      return status;
    });
    serve(app, api.entry, {}, ({ body }) => queue.status(body.token));
    serve(app, api.sayInQueue, {}, async ({ body: { token, text } }) => {
      await queue.sayAsCustomer(token, text);
      changes.changed({ parts: ['waiting'] });
      return queue.status(token);
    });
    serve(app, api.happensToo, limited, async ({ params, body }) => {
      const fault = await knownFaults.happensToo(params.id, body);
      changes.changed({ parts: ['known-faults', 'outbox'] });
      return fault;
    });
    serve(app, api.leaveQueue, {}, async ({ body }) => {
      const entry = await queue.leave(body.token);
      changes.changed({ parts: ['waiting'] });
      return { entry };
    });
  };
