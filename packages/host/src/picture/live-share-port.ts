import type { LiveConnection, PictureLine } from '@porch/client';
import { startOf, type OpenContent } from '@porch/wire';
import type { SharePort } from './share-port.ts';

/** A live connection as the picture sees it, for platforms that seal at once. */
export function liveSharePort(
  connection: LiveConnection,
  line: PictureLine,
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
    get lastEpoch() {
      return line.lastEpoch;
    },
    send: (content) => connection.sendFrame(seal(content)),
    tell: (seat, message) => line.send(seat, message),
  };
}
