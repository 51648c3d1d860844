import jpeg from 'jpeg-js';
import { inflateRawSync } from 'node:zlib';

/** How Node unpacks what a viewer gets. */
export const codecs = {
  inflate: (bytes: Uint8Array, sizeBytes: number) => inflateRawSync(bytes, { maxOutputLength: Math.max(1, sizeBytes) }),
  decodePhoto: (bytes: Uint8Array) => {
    const { width, height, data } = jpeg.decode(bytes, { useTArray: true });
    return Promise.resolve({ width, height, rgba: data });
  },
};
