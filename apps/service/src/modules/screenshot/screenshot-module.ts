import type { Kit } from '../../module/kit.ts';
import { SealedAnew } from '../../db/sealed-anew.ts';
import { defineModule } from '../../module/service-module.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import { ScreenshotDesk } from './screenshot-desk.ts';
import { screenshotRoutes } from './screenshot-routes.ts';
import { ScreenshotEntity } from './screenshot-table.ts';

const SEALING_PAUSE_MS = 2_000;

interface Needs extends Pick<Kit, 'records' | 'secrets'> {
  readonly book: SessionBook;
  readonly desk: SessionDesk;
}

/** Pictures that were put into the records of their session. */
export const screenshotModule = defineModule({
  name: 'screenshot',
  tables: [ScreenshotEntity],
  build: ({ records, secrets, book, desk }: Needs) => {
    const screenshots = new ScreenshotDesk(records, book, secrets);
    const anew = new SealedAnew(records, ScreenshotEntity, secrets);
    return {
      gives: {},
      routes: [{ plugin: screenshotRoutes({ desk, screenshots }) }],
      erase: (tx, sessionId) => screenshots.erase(tx, sessionId),
      repeated: [
        {
          what: 'sealing screenshots anew',
          isShared: true,
          pauseMs: SEALING_PAUSE_MS,
          work: () => anew.round(),
        },
      ],
    };
  },
});
