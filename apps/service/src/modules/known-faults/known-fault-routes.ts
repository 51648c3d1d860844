import { KnownFaultBody, KnownFaultView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { KnownFaultDesk } from './known-fault-desk.ts';

export interface KnownFaultRoutesParts {
  readonly knownFaults: KnownFaultDesk;
  changed(): void;
}

const One = z.object({ id: z.uuid() });
const Nothing = z.object({});

/** Known faults for technicians. */
export const knownFaultRoutes =
  ({ knownFaults, changed }: KnownFaultRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    app.get(
      '/known-faults',
      { config: { may: 'see known faults' }, schema: { response: { 200: z.array(KnownFaultView) } } },
      async () => {
        return knownFaults.open();
      },
    );
    app.post(
      '/known-faults',
      { config: { may: 'publish a known fault' }, schema: { body: KnownFaultBody, response: { 200: KnownFaultView } } },
      async (request) => {
        const fault = await knownFaults.put(personOf(request), request.body);
        changed();
        return fault;
      },
    );
    app.post(
      '/known-faults/:id/end',
      { config: { may: 'end a known fault' }, schema: { params: One, response: { 200: Nothing } } },
      async (request) => {
        await knownFaults.end(personOf(request), request.params.id);
        changed();
        return {};
      },
    );
  };
