import { deflate, seal } from '@porch/client/node';
import type { SealingCodecs } from '@porch/host';
import { jpegEncoder } from './jpeg.ts';

export const nodeCodecs = async (): Promise<SealingCodecs> => ({
  deflate,
  encodeJpeg: await jpegEncoder(),
  seal,
});
