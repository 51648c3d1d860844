import type { PhotoPixels } from '@porch/screen';
import { contentHead, contentNonce, joinContent, type OpenContent } from '@porch/wire';
import { createCipheriv } from 'node:crypto';
import { deflateRawSync, inflateRawSync } from 'node:zlib';

/* What a program of Node packs (RFC 1951), seals (AES-256-GCM) and decodes pictures with. */

export const deflate = (bytes: Uint8Array): Uint8Array => deflateRawSync(bytes, { level: 1 });

/** Throws at what is broken, and at what would be more than `sizeBytes`. */
export const inflate = (bytes: Uint8Array, sizeBytes: number): Uint8Array =>
  inflateRawSync(bytes, { maxOutputLength: Math.max(1, sizeBytes) });

/** Pixels R G B A of a baseline JPEG (ITU-T T.81), in plain code. Throws at what is none, and at what takes more memory. */
export async function decodeJpeg(jpeg: Uint8Array, mostMegabytes = 64): Promise<PhotoPixels> {
  const { decode } = await import('jpeg-js');
  const limits = { maxMemoryUsageInMB: mostMegabytes, maxResolutionInMP: 70 };
  const { width, height, data } = decode(jpeg, { useTArray: true, ...limits });
  return { width, height, rgba: data };
}

/** A whole message, as `content.ts` of the wire draws it. */
export function seal({ key, counter, header, clear, plain }: OpenContent): Uint8Array {
  const head = contentHead(header, clear);
  const cipher = createCipheriv('aes-256-gcm', key, contentNonce(counter));
  cipher.setAAD(head);
  return joinContent(head, Buffer.concat([cipher.update(plain), cipher.final(), cipher.getAuthTag()]));
}
