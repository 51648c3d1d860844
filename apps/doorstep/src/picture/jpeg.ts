import { decodeJpeg as inPlainCode } from '@porch/client/node';
import type { SourceCodecs } from '@porch/host';
import type { PhotoPixels } from '@porch/screen';

/**
 * Baseline JPEG (ITU-T T.81) of R G B pixels. Undefined where the library for this machine is missing: then nothing is
 * sent as a photo, which costs bytes and nothing else.
 */
export async function jpegEncoder(): Promise<SourceCodecs['encodeJpeg']> {
  const sharp = await loadSharp();
  if (!sharp) return undefined;
  return (rgb, width, height, quality) =>
    sharp(rgb, { raw: { width, height, channels: 3 } })
      .jpeg({ quality, optimiseCoding: true })
      .toBuffer();
}

/**
 * Pixels R G B A of a baseline JPEG. In plain code where the library for this machine is missing: slower, and as right.
 * Throws at what is no JPEG.
 */
export async function decodeJpeg(jpeg: Uint8Array): Promise<PhotoPixels> {
  const sharp = await loadSharp();
  if (!sharp) return inPlainCode(jpeg);
  const { data, info } = await sharp(jpeg).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, rgba: new Uint8ClampedArray(data) };
}

const loadSharp = () =>
  import('sharp').then(
    (module) => module.default,
    () => undefined,
  );
