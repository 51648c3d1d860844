import { TechnicianOwnScreen, type OwnScreenOver, type OwnScreenSender } from '@porch/client';
import { deflate, seal } from '@porch/client/node';
import { ownScreenSender } from '@porch/host';
import { basename } from 'node:path';
import { defineKept } from '../cli-ability.ts';
import { ownScreenCalls } from './calls.ts';
import { FileScreen } from './file-screen.ts';
import { readPictureFile } from './picture-file.ts';

/** What `porch status` says of it. */
export interface OwnScreenNow {
  /** The name of the file that is shown; null while nothing is. */
  readonly shows: string | null;
  readonly isSeen: boolean;
  /** Why the last one is over, when nobody here stopped it. */
  readonly over: OwnScreenOver | null;
}

export const keptOwnScreen = defineKept({
  name: 'own-screen',
  calls: ownScreenCalls,
  begin(kit) {
    const own = new TechnicianOwnScreen(kit.connection);
    own.listeners.on('changed', () => kit.changed());
    let file: string | undefined;
    const now = (): OwnScreenNow => ({
      shows: own.what && file !== undefined ? basename(file) : null,
      isSeen: own.isSeen,
      over: own.over ?? null,
    });
    return {
      kit,
      now,
      async show(path: string) {
        const picture = await readPictureFile(path);
        await own.begin('picture', (line): OwnScreenSender => {
          const screen = new FileScreen(path, picture);
          const codecs = { deflate, seal, encodeJpeg: undefined };
          const sender = ownScreenSender(kit.connection, line, { screen, codecs }, () => undefined);
          return {
            ...sender,
            close: () => {
              sender.close();
              screen.close();
            },
          };
        });
        file = path;
      },
      end: () => own.end(),
      status: () => ({ ownScreen: now() }),
      close: () => own.close(),
    };
  },
  answer: {
    async showPicture({ kit, show, now }, { file }) {
      kit.need('show-own-screen');
      await show(file);
      return now();
    },
    async stopShowing({ end, now }) {
      end();
      return Promise.resolve(now());
    },
  },
});
