import type { Kit } from '../../module/kit.ts';
import { defineModule } from '../../module/service-module.ts';
import type { OpenConsoles } from '../people/open-consoles.ts';
import type { Technicians } from '../people/technician.ts';
import { DeskFeed } from './desk-feed.ts';
import { PorchBoard, type PorchParts } from './porch-board.ts';
import { porchRoutes } from './porch-routes.ts';

interface Needs extends Pick<Kit, 'background' | 'changes'>, PorchParts {
  readonly technicians: Technicians;
  readonly consoles: OpenConsoles;
}

/** What a technician sees when they come to work, as it changes. */
export const porchModule = defineModule({
  name: 'porch',
  build: (kit: Needs) => {
    const { background, changes, technicians, ticketLists, consoles } = kit;
    const newBoard = () =>
      new PorchBoard(kit, (refs) =>
        background.run('reading the tickets of those who wait', async () => {
          if (await ticketLists.lookUp(refs)) changes.changed({ parts: ['waiting'] });
        }),
      );
    const feed = new DeskFeed({ background, technicians, board: newBoard() });
    const endWatching = changes.watch(feed.changed);
    return {
      gives: {},
      routes: [{ plugin: porchRoutes({ feed, newBoard, consoles }) }],
      opened: feed,
      figures: [{ name: 'porch_desk_readers', help: 'Consoles that read the porch', read: () => feed.size }],
      close: () => {
        endWatching();
        feed.close();
      },
    };
  },
});
