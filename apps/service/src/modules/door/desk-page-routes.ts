import type { PolicyFor } from '@porch/core';
import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { serve } from '../../http/serve.ts';
import type { Changes } from '../../module/changes.ts';
import type { KnownFaultDesk } from '../known-faults/known-fault-desk.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import { signInOf, type SignInParts } from './customer-sign-in.ts';

const QUEUE_NOW_MS = 500;

export interface DeskPageRoutesParts extends SignInParts {
  readonly queue: QueueDesk;
  readonly knownFaults: KnownFaultDesk;
  readonly policyFor: PolicyFor;
  readonly changes: Changes;
}

/** What the desk says of itself before anybody types. */
export const deskPageRoutes =
  (parts: DeskPageRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    const { queue, knownFaults, policyFor, changes } = parts;
    /** Many may look at once, and it is the same for all of them: worked out once for each change, and anew as time goes. */
    let known:
      { readonly atMs: number; readonly version: number; readonly now: ReturnType<typeof queue.now> } | undefined;
    const queueNow = () => {
      if (known?.version !== changes.version || Date.now() - known.atMs > QUEUE_NOW_MS) {
        const now = queue.now();
        known = { atMs: Date.now(), version: changes.version, now };
        // Whoever asks next tries anew.
        now.catch(() => (known = undefined));
      }
      return known.now;
    };
    serve(app, api.desk, {}, async ({ request }) => {
      const { deskName, deskPhone, timeZone, topics } = policyFor();
      return {
        ...signInOf(request, parts),
        deskName,
        deskPhone,
        timeZone,
        topics: topics.map(({ topic, words }) => ({ topic, words })),
        knownFaults: await knownFaults.open(),
        ...(await queueNow()),
      };
    });
  };
