import { inBackground, type LiveConnection, type OwnScreenSender, type PictureLine } from '@porch/client';
import { liveSharePort } from './live-share-port.ts';
import { ScreenShare } from './screen-share.ts';
import type { ScreenSource } from './screen-source.ts';
import type { SealingCodecs } from './share-port.ts';

/** Shows a technician's own screen from this very process, by the same code that shows a customer's. */
export function ownScreenSender(
  connection: LiveConnection,
  line: PictureLine,
  { screen, codecs }: { readonly screen: ScreenSource; readonly codecs: SealingCodecs },
  onTrouble: (error: unknown, what: string) => void,
): OwnScreenSender {
  const port = liveSharePort(connection, line, codecs.seal);
  const share = new ScreenShare(port, screen, codecs, onTrouble, connection.clock, connection.random);
  return {
    setWatchers: (watchers) => inBackground('showing a screen', share.setWatchers(watchers)),
    take: (seat, message) => share.take(seat, message),
    relay: (frame) => share.handleRelay(frame),
    room: () => share.pump(),
    close: () => share.close(),
  };
}
