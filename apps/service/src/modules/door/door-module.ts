import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { requestRoutes, type RequestRoutesParts } from './request-routes.ts';
import { sessionDoorRoutes, type SessionDoorRoutesParts } from './session-door-routes.ts';

type FromKit = 'records' | 'policy' | 'changes' | 'publicUrl' | 'liveUrl';
type FromModules = Omit<SessionDoorRoutesParts, FromKit | 'shelf' | 'changed'> &
  Omit<RequestRoutesParts, FromKit | 'topics' | 'requestsNeedSignIn'>;
type Needs = Pick<Kit, FromKit> &
  FromModules & { readonly config: Pick<Config, 'release' | 'topics' | 'requestsNeedSignIn'> };

/** The customers' side over REST. */
export const doorModule = defineModule({
  name: 'door',
  build: (kit: Needs) => {
    const { topics, requestsNeedSignIn, release } = kit.config;
    return {
      gives: {},
      routes: [
        { plugin: requestRoutes({ ...kit, topics, requestsNeedSignIn }) },
        { plugin: sessionDoorRoutes({ ...kit, shelf: release, changed: kit.changes.changed }) },
      ],
    };
  },
});
