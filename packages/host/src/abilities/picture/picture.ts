import { PictureLine, SealedLine } from '@porch/client';
import { pictureChannel } from '@porch/wire';
import type { HostAbility, Kit, Running } from '../../kit.ts';
import { liveSharePort } from '../../picture/live-share-port.ts';
import { partShown } from '../../part-shown.ts';
import { ScreenShare } from '../../picture/screen-share.ts';
import { whyWithout } from '../../ports/host-ports.ts';
import { shortened } from '../../shortened.ts';
import { isLooker, watchersOf } from '../../watchers.ts';
import { chooseShown } from './hiding.ts';

/** Shows the screen to those who may look. */
export const picture: HostAbility = {
  name: 'picture',
  whyNot: (_permission, ports) => whyWithout(ports, 'screen', 'codecs'),
  warn: ({ words, firstName: first }, { secrets, hiding }) =>
    hiding && hiding.shown.what !== 'everything'
      ? words.oneProgram.sees({ first, title: shortened(hiding.shown.title) })
      : words.picture.seesAll({ first, passwords: secrets?.noticesPasswords ? 'noticed' : 'unnoticed' }),
  begin(kit): Running {
    const { connection, log } = kit;
    const { screen, codecs, hiding } = kit.ports;
    if (!screen || !codecs) return { close: () => undefined };
    const line = new SealedLine(connection, pictureChannel);
    const share = new ScreenShare(
      liveSharePort(connection, new PictureLine(line), codecs.seal),
      screen,
      codecs,
      (error, what) => log.warn({ err: error }, what),
      kit.time,
    );
    let isWallpaperHidden = false;
    share.tellWallpaper = (isHidden) => {
      isWallpaperHidden = isHidden;
      return kit.shown();
    };
    share.monitors.onChanged = () => kit.changed();
    kit.shared.monitorOf = (display) => share.monitors.at(display);
    kit.shared.aim = (display) => share.aim(display);
    kit.shared.pixels = (display) => share.pixels(display);
    const offs = [
      // Without a grant of our own for that key nothing is even opened.
      line.listen(
        ({ from, message }) => share.take(from.seat, message),
        (from) => isLooker(kit, from.signKey),
      ),
      connection.on('frame', ({ frame }) => {
        if (frame.channel === 'screen' && frame.senderSeat === 0) share.handleRelay(frame);
      }),
      connection.on('room', () => share.pump()),
      kit.ports.banner.onHideWanted(() => hideInTurn(kit)),
    ];
    return {
      changed: () => {
        share
          .setWatchers(watchersOf(kit))
          .catch((error: unknown) => log.error({ err: error }, 'the screen cannot be watched'));
      },
      // Choosing comes first, before any picture.
      more: (ask, put) =>
        hiding && ask.permissions.includes('view-screen')
          ? {
              words: kit.words.picture.hideBeforehand,
              choose: () => chooseShown(hiding, connection.state.language, put),
            }
          : undefined,
      banner: () => ({
        what: kit.words.picture.sees({ part: partShown(kit.ports) }),
        besides: isWallpaperHidden ? [kit.words.picture.wallpaperHidden] : [],
      }),
      close: () => {
        offs.forEach((off) => off());
        share.close();
      },
    };
  },
};

function hideInTurn(kit: Kit): void {
  const { hiding } = kit.ports;
  if (!hiding) return;
  const { language } = kit.connection.state;
  kit
    .inTurn((put) => chooseShown(hiding, language, put))
    .catch((error: unknown) => kit.log.error({ err: error }, 'nothing could be chosen'));
}
