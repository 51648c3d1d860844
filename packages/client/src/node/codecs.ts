import { contentHead, contentNonce, joinContent, type OpenContent } from '@porch/wire';
import { createCipheriv } from 'node:crypto';
import { deflateRawSync, inflateRawSync } from 'node:zlib';

/* What Node brings for pictures: packing (RFC 1951) and sealing (AES-256-GCM), both in its own code. */

export const deflate = (bytes: Uint8Array): Uint8Array => deflateRawSync(bytes, { level: 1 });

/** Throws at what is broken, and at what would be more than `sizeBytes`. */
export const inflate = (bytes: Uint8Array, sizeBytes: number): Uint8Array =>
  inflateRawSync(bytes, { maxOutputLength: Math.max(1, sizeBytes) });

/** A whole message, as `content.ts` of the wire draws it. */
export function seal({ key, counter, header, clear, plain }: OpenContent): Uint8Array {
  const head = contentHead(header, clear);
  const cipher = createCipheriv('aes-256-gcm', key, contentNonce(counter));
  cipher.setAAD(head);
  return joinContent(head, Buffer.concat([cipher.update(plain), cipher.final(), cipher.getAuthTag()]));
}
