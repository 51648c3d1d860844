import { inflate } from '@porch/client/node';
import jpeg from 'jpeg-js';

/** How Node unpacks what a viewer gets. */
export const codecs = {
  inflate,
  decodePhoto: (bytes: Uint8Array) => {
    const { width, height, data } = jpeg.decode(bytes, { useTArray: true });
    return Promise.resolve({ width, height, rgba: data });
  },
};
