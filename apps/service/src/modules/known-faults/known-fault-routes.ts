import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
import type { KnownFaultDesk } from './known-fault-desk.ts';

export interface KnownFaultRoutesParts {
  readonly knownFaults: KnownFaultDesk;
  changed(): void;
}

/** Known faults for technicians. */
export const knownFaultRoutes =
  ({ knownFaults, changed }: KnownFaultRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.knownFaults, { may: 'see known faults' }, async ({ query }) => {
      const wanted = (await knownFaults.open()).filter(
        ({ topic }) => query.topic === undefined || topic === query.topic,
      );
      return pageOfList(wanted, query, 'known faults', (fault) => [-fault.atMs, fault.id]);
    });
    serve(app, api.publishKnownFault, { may: 'publish a known fault' }, async ({ body, request }) => {
      const fault = await knownFaults.put(personOf(request), body);
      changed();
      return fault;
    });
    serve(app, api.endKnownFault, { may: 'end a known fault' }, async ({ params, request }) => {
      await knownFaults.end(personOf(request), params.id);
      changed();
    });
  };
