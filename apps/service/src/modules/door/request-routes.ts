import { AppError, EntryStatus, KnownFaultView, QueueEntryView, RequestBody, SayBody } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
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
    app.post(
      '/door/requests',
      { config: limited, schema: { body: RequestBody, response: { 200: EntryStatus } } },
      async (request) => {
        const { person, needsSignIn } = signInOf(request, parts);
        if (needsSignIn && !person) throw new AppError('DIRECTORY_NEEDED');
        // Whom the directory knows is who it says, whatever was typed.
        const status = await queue.ask({ ...request.body, ...person, isConfirmed: person !== undefined });
        changes.changed({ parts: ['waiting'] });
        return status;
      },
    );
    // In the body, not in the address: addresses are kept in histories and logs.
    app.post(
      '/door/requests/mine',
      { schema: { body: z.strictObject({ token: z.string().max(100) }), response: { 200: EntryStatus } } },
      async (request) => queue.status(request.body.token),
    );
    app.post('/door/requests/say', { schema: { body: SayBody, response: { 200: EntryStatus } } }, async (request) => {
      const { token, text } = request.body;
      await queue.sayAsCustomer(token, text);
      changes.changed({ parts: ['waiting'] });
      return queue.status(token);
    });
    app.post(
      '/door/known-faults/:id/happens-to-me',
      {
        config: limited,
        schema: {
          params: z.object({ id: z.uuid() }),
          body: z.strictObject({ name: z.string().trim().min(1).max(120), address: z.string().trim().max(200) }),
          response: { 200: KnownFaultView },
        },
      },
      async (request) => {
        const fault = await knownFaults.happensToo(request.params.id, request.body);
        changes.changed({ parts: ['known-faults', 'outbox'] });
        return fault;
      },
    );
    app.post(
      '/door/requests/leave',
      {
        schema: {
          body: z.strictObject({ token: z.string().max(100) }),
          response: { 200: z.object({ entry: QueueEntryView }) },
        },
      },
      async (request) => {
        const entry = await queue.leave(request.body.token);
        changes.changed({ parts: ['waiting'] });
        return { entry };
      },
    );
  };
