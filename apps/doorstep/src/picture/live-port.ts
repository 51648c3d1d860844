import type { LiveConnection, LookChannel, SharePort, SourceCodecs } from '@porch/client';
import { contentHead, contentNonce, joinContent, startOf } from '@porch/wire';
import { createCipheriv } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import { jpegEncoder } from './jpeg.ts';

/** A live connection as the picture sees it; sealed at once, with Node's own code. */
export function livePort(connection: LiveConnection, look: LookChannel): SharePort {
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
    send({ key, counter, header, clear, plain }) {
      const head = contentHead(header, clear);
      const cipher = createCipheriv('aes-256-gcm', key, contentNonce(counter));
      cipher.setAAD(head);
      const sealed = Buffer.concat([cipher.update(plain), cipher.final(), cipher.getAuthTag()]);
      return connection.sendFrame(joinContent(head, sealed));
    },
    tell: (seat, message) => look.send(seat, message),
  };
}

export const nodeCodecs = async (): Promise<SourceCodecs> => ({
  deflate: (bytes) => deflateRawSync(bytes, { level: 1 }),
  encodeJpeg: await jpegEncoder(),
});
