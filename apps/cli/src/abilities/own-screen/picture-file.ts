import { decodeJpeg } from '@porch/client/node';
import type { PhotoPixels } from '@porch/screen';
import { readFile } from 'node:fs/promises';
import { PNG } from 'pngjs';

/** Larger ones are refused by whoever would see them. */
const MOST_PIXELS = 40 * 1024 * 1024;
const MOST_MEGABYTES = 512;

export interface FilePicture {
  readonly width: number;
  readonly height: number;
  /** Words 0x00RRGGBB; what is see-through stands on white. */
  readonly pixels: Uint32Array;
}

export class NoPicture extends Error {}

/** Throws NoPicture at what is no picture, or too large, and what the file system says of what cannot be read. */
export async function readPictureFile(file: string): Promise<FilePicture> {
  const bytes = await readFile(file);
  const { width, height, rgba } = await decode(bytes).catch((cause: unknown) => {
    throw new NoPicture('neither PNG nor JPEG, or broken', { cause });
  });
  if (width * height > MOST_PIXELS) throw new NoPicture('more than 40 megapixels');
  const pixels = new Uint32Array(width * height);
  for (let i = 0, at = 0; i < pixels.length; i++, at += 4) {
    const alpha = rgba[at + 3] ?? 255;
    const over = (value: number) => Math.round((value * alpha + 255 * (255 - alpha)) / 255);
    pixels[i] = (over(rgba[at] ?? 0) << 16) | (over(rgba[at + 1] ?? 0) << 8) | over(rgba[at + 2] ?? 0);
  }
  return { width, height, pixels };
}

async function decode(bytes: Buffer): Promise<PhotoPixels> {
  if (bytes.subarray(1, 4).toString('latin1') !== 'PNG') return decodeJpeg(bytes, MOST_MEGABYTES);
  // What it says of itself decides what decoding it would cost, so that is looked at first.
  const [width, height] = [bytes.readUInt32BE(16), bytes.readUInt32BE(20)];
  if (width * height > MOST_PIXELS) return { width, height, rgba: new Uint8Array(0) };
  return { width, height, rgba: PNG.sync.read(bytes).data };
}
