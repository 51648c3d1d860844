import { LocalPicture, OLD_MS } from '@porch/client';
import { inflate } from '@porch/client/node';
import type { ShownScreen, ShownScreenPort } from '@porch/host';
import { decodeJpeg } from '../../picture/jpeg.ts';
import type { HiddenWindows } from '../hiding/hidden-windows.ts';
import { ShownWindow } from './shown-window.ts';

/** How often it is looked whether the picture has grown old. */
const AGE_MS = 1_000;
/** What is shown is looked at: it is large. */
const STANDING = { share: 0.66, corner: 'above' } as const;
/** However many messages wait for a key: one question for it is enough. */
const NEED_KEY_MS = 300;

/** What a technician shows, in a window of the desktop, on a connection of its own: painting it holds up nothing else. */
export function x11ShownScreen(display: string, hidden: HiddenWindows): ShownScreenPort {
  return {
    open({ connection, seat, words }, on): ShownScreen {
      const picture = new LocalPicture(connection, 0, { inflate, decodePhoto: decodeJpeg }, seat);
      let isClosed = false;
      let window: ShownWindow | undefined;
      let endNeedKey: (() => void) | undefined;
      const show = () => window?.show(picture.viewer.picture);
      const endAges = connection.clock.every(AGE_MS, () => {
        const { ageMs = 0 } = picture.standing;
        window?.say(ageMs > OLD_MS ? words.old(Math.floor(ageMs / 1_000)) : '');
      });
      picture.listeners.on('painted', ({ rects, isNewSize }) => {
        if (isNewSize) show();
        else window?.changed(rects);
      });
      picture.listeners.on('noKey', () => {
        endNeedKey ??= connection.clock.after(NEED_KEY_MS, () => {
          endNeedKey = undefined;
          on.needKey();
        });
      });
      ShownWindow.open(display, hidden, words, { closed: on.closed, failed: on.failed }, STANDING).then(
        (opened) => {
          if (isClosed) return opened.close();
          window = opened;
          show();
        },
        (error: unknown) => {
          if (!isClosed) on.failed(error);
        },
      );
      const close = () => {
        isClosed = true;
        endAges();
        endNeedKey?.();
        picture.forget();
        window?.close();
        window = undefined;
      };
      return Object.assign(picture, { close });
    },
  };
}
