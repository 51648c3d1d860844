import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { OpenConsoles } from '../people/open-consoles.ts';
import type { SignIns } from '../people/sign-in.ts';
import { DeskFeed } from './desk-feed.ts';
import { porchRoutes } from './porch-routes.ts';
import type { PorchParts } from './porch-view.ts';

interface Needs extends Pick<Kit, 'background' | 'changes'>, PorchParts {
  readonly signIns: SignIns;
  readonly consoles: OpenConsoles;
}

/** What a technician sees when they come to work, as it changes. */
export const porchModule = defineModule({
  name: 'porch',
  build: (kit: Needs) => {
    const feed = new DeskFeed(kit.background);
    const endWatching = kit.changes.watch(feed.changed);
    return {
      gives: {},
      routes: [{ plugin: porchRoutes({ ...kit, feed }) }],
      opened: feed,
      figures: [{ name: 'porch_desk_readers', help: 'Consoles that read the porch', read: () => feed.size }],
      close: () => {
        endWatching();
        feed.close();
      },
    };
  },
});
