import { mayComeBack, type PolicyFor } from '@porch/core';
import { AppError, DeviceView, DeviceVisitView } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import type { DeviceDesk } from './device-desk.ts';
import type { DeviceGateway } from './device-gateway.ts';

const One = z.object({ id: z.uuid() });

export interface DeviceRoutesParts {
  readonly devices: DeviceDesk;
  readonly deviceGateway: DeviceGateway;
  readonly lists: SessionLists;
  readonly policyFor: PolicyFor;
  changed(): void;
}

/** Devices for technicians: the list, every visit, and forgetting one. */
export const deviceRoutes =
  (parts: DeviceRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    const { devices, deviceGateway, lists, policyFor, changed } = parts;

    app.get(
      '/devices',
      {
        config: { may: 'see devices' },
        schema: {
          querystring: z.object({ words: z.string().max(100).default('') }),
          response: { 200: z.array(DeviceView) },
        },
      },
      async (request) => {
        return devices.list(request.query.words);
      },
    );
    app.get(
      '/devices/:id/visits',
      { config: { may: 'see devices' }, schema: { params: One, response: { 200: z.array(DeviceVisitView) } } },
      async (request) => {
        return lists.ofDevice(request.params.id);
      },
    );
    app.post(
      '/devices/:id/forget',
      { config: { may: 'forget a device' }, schema: { params: One, response: { 200: z.object({}) } } },
      async (request) => {
        const technician = personOf(request);
        if (!mayComeBack(policyFor(technician.team).askLimits, technician)) throw new AppError('NOT_ALLOWED_BY_DESK');
        const { id } = await devices.reachable(request.params.id);
        await devices.end(id, 'by-the-desk');
        // Otherwise it hears of it when it is on again.
        deviceGateway.tell(id, { type: 'forget' });
        changed();
        return {};
      },
    );
  };
