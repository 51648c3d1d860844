import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { DoorPasses } from '../passes/door-passes.ts';
import { downloadRoutes } from './download-routes.ts';

interface Needs extends Pick<Kit, 'publicUrl'> {
  readonly config: Pick<Config, 'release'>;
  readonly passes: DoorPasses;
}

/** The release of Doorstep that this desk hands out, if it has one. */
export const downloadsModule = defineModule({
  name: 'downloads',
  build: ({ config: { release: shelf }, passes, publicUrl }: Needs) => ({
    gives: {},
    routes: shelf ? [{ prefix: '/download', plugin: downloadRoutes({ shelf, passes, publicUrl }) }] : [],
  }),
});
