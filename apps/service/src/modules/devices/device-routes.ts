import { mayComeBack, type PolicyFor } from '@porch/core';
import { api, AppError } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import { devicePlace, type DeviceDesk } from './device-desk.ts';
import type { DeviceGateway } from './device-gateway.ts';

/** So many are looked through for a list in pages. */
const MOST_DEVICES = 20_000;

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

    serve(app, api.devices, { may: 'see devices' }, async ({ query }) => {
      const all = await devices.list(query.words, MOST_DEVICES);
      const wanted = all.filter(({ state }) => query.state === undefined || state === query.state);
      return pageOfList(wanted, query, `devices ${query.words}`, (device) => [devicePlace(device), device.id]);
    });
    serve(app, api.deviceVisits, { may: 'see devices' }, async ({ params, query }) =>
      pageOfList(await lists.ofDevice(params.id), query, `visits of ${params.id}`, (visit) => [
        -visit.atMs,
        visit.sessionId,
      ]),
    );
    serve(app, api.forgetDevice, { may: 'forget a device' }, async ({ params, request }) => {
      const technician = personOf(request);
      if (!mayComeBack(policyFor(technician.team).askLimits, technician)) throw new AppError('NOT_ALLOWED_BY_DESK');
      const { id } = await devices.reachable(params.id);
      await devices.end(id, 'by-the-desk');
      // Otherwise it hears of it when it is on again.
      deviceGateway.tell(id, { type: 'forget' });
      changed();
    });
  };
