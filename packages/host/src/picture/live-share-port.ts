import type { LiveConnection, SealedLine } from '@porch/client';
import { startOf, type PictureMessage } from '@porch/wire';
import type { OpenContent, SharePort } from './share-port.ts';

/** A live connection as the picture sees it, for platforms that seal at once. */
export function liveSharePort(
  connection: LiveConnection,
  line: SealedLine<PictureMessage>,
  seal: (content: OpenContent) => Uint8Array,
): SharePort {
  return {
    get sessionId() {
      return connection.sessionId;
    },
    get seat() {
      return connection.seat;
    },
    get hasRoom() {
      return connection.hasRoom;
    },
    get messageBytes() {
      return connection.messageBytes;
    },
    get bytesPerSecond() {
      return connection.bytesPerSecond;
    },
    sourceStart: startOf(connection.keys),
    send: (content) => connection.sendFrame(seal(content)),
    tell: (seat, message) => line.send(seat, message),
  };
}
