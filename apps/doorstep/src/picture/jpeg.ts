import type { SourceCodecs } from '@porch/host';

/**
 * Baseline JPEG (ITU-T T.81) of R G B pixels. Undefined where the library for this machine is missing: then nothing is
 * sent as a photo, which costs bytes and nothing else.
 */
export async function jpegEncoder(): Promise<SourceCodecs['encodeJpeg']> {
  const sharp = await import('sharp').then(
    (module) => module.default,
    () => undefined,
  );
  if (!sharp) return undefined;
  return (rgb, width, height, quality) =>
    sharp(rgb, { raw: { width, height, channels: 3 } })
      .jpeg({ quality, optimiseCoding: true })
      .toBuffer();
}
