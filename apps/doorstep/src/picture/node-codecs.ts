import type { OpenContent, SealingCodecs } from '@porch/host';
import { contentHead, contentNonce, joinContent } from '@porch/wire';
import { createCipheriv } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import { jpegEncoder } from './jpeg.ts';

/** Sealed at once, with Node's own code. */
function seal({ key, counter, header, clear, plain }: OpenContent): Uint8Array {
  const head = contentHead(header, clear);
  const cipher = createCipheriv('aes-256-gcm', key, contentNonce(counter));
  cipher.setAAD(head);
  return joinContent(head, Buffer.concat([cipher.update(plain), cipher.final(), cipher.getAuthTag()]));
}

export const nodeCodecs = async (): Promise<SealingCodecs> => ({
  deflate: (bytes) => deflateRawSync(bytes, { level: 1 }),
  encodeJpeg: await jpegEncoder(),
  seal,
});
