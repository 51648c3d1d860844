import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { deskPageRoutes, type DeskPageRoutesParts } from './desk-page-routes.ts';
import { receiptRoutes } from './receipt-routes.ts';
import { restartStepRoutes, type RestartStepRoutesParts } from './restart-step-routes.ts';
import { requestRoutes } from './request-routes.ts';
import { sessionDoorRoutes, type SessionDoorRoutesParts } from './session-door-routes.ts';

type FromKit = 'records' | 'changes' | 'publicUrl' | 'liveUrl';
type FromModules = RestartStepRoutesParts &
  Omit<SessionDoorRoutesParts, FromKit | 'shelf' | 'changed'> &
  Omit<DeskPageRoutesParts, FromKit>;
type Needs = Pick<Kit, FromKit> & FromModules & { readonly config: Pick<Config, 'release'> };

/** The customers' side over REST. */
export const doorModule = defineModule({
  name: 'door',
  build: (kit: Needs) => {
    return {
      gives: {},
      routes: [
        { plugin: deskPageRoutes(kit) },
        { plugin: requestRoutes(kit) },
        { plugin: sessionDoorRoutes({ ...kit, shelf: kit.config.release, changed: kit.changes.changed }) },
        { plugin: receiptRoutes(kit) },
        { plugin: restartStepRoutes(kit) },
      ],
    };
  },
});
