import type { Config } from '../../config.ts';
import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import { Directory } from './directory.ts';
import { directoryRoutes } from './directory-routes.ts';

interface Needs extends Pick<Kit, 'secrets' | 'publicUrl'> {
  readonly config: Pick<Config, 'directory'>;
}

/** Customers who sign in at a directory, if the desk has one. */
export const directoryModule = defineModule({
  name: 'directory',
  build: ({ config, secrets, publicUrl }: Needs) => {
    const directory = config.directory ? new Directory(config.directory, secrets) : undefined;
    return {
      gives: { directory },
      routes: directory ? [{ plugin: directoryRoutes({ directory, publicUrl }) }] : [],
    };
  },
});
