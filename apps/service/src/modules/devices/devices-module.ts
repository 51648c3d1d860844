import type { PolicyOf } from '../sessions/policy-of.ts';
import type { PolicyFor } from '@porch/core';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import { DeviceDesk } from './device-desk.ts';
import { DeviceGateway } from './device-gateway.ts';
import { deviceRoutes } from './device-routes.ts';
import { DeviceEntity } from './device-table.ts';

const DEVICE_ENDS_PAUSE_MS = 5_000;

interface Needs extends Pick<Kit, 'records' | 'log' | 'background' | 'changes'> {
  readonly policyFor: PolicyFor;
  readonly policyOf: PolicyOf;
  readonly book: SessionBook;
  readonly lists: SessionLists;
}

/** Devices that customers let the desk reach. */
export const devicesModule = defineModule({
  name: 'devices',
  tables: [DeviceEntity],
  build: ({ records, policyFor, policyOf, log, background, changes, book, lists }: Needs) => {
    const changed = changes.of('devices');
    const deviceGateway = new DeviceGateway(log, background, changed);
    const devices = new DeviceDesk({ records, book, lists, policyOf, presenceOf: deviceGateway.presenceOf });
    return {
      gives: { devices, deviceGateway },
      routes: [{ plugin: deviceRoutes({ devices, deviceGateway, lists, policyFor, changed }) }],
      erase: (tx, sessionId) => devices.erase(tx, sessionId),
      upgrades: {
        '/devices': (request, socket, head, address) => deviceGateway.handleUpgrade(request, socket, head, address),
      },
      repeated: [
        {
          what: 'ending old standing consents',
          isShared: true,
          pauseMs: DEVICE_ENDS_PAUSE_MS,
          work: async () => {
            if (await devices.endOld()) changed();
          },
        },
      ],
      open: () => deviceGateway.serve(devices),
      close: () => deviceGateway.close(),
    };
  },
});
