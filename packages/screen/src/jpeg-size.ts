/**
 * The size that a JPEG says it has, from its frame header (ITU-T T.81, B.2.2), before anything is decoded: a few hundred
 * bytes can name a picture of gigabytes. Undefined for what has no frame header where one must be.
 */
export function jpegSize(bytes: Uint8Array): { width: number; height: number } | undefined {
  if (bytes[0] !== 0xff || bytes[1] !== 0xd8) return undefined;
  let at = 2;
  while (at + 9 <= bytes.length) {
    if (bytes[at] !== 0xff) return undefined;
    const marker = bytes[at + 1] ?? 0;
    // Fill bytes before a marker.
    if (marker === 0xff) {
      at++;
      continue;
    }
    const length = ((bytes[at + 2] ?? 0) << 8) | (bytes[at + 3] ?? 0);
    if (length < 2) return undefined;
    // Start of frame of any kind; the three between are tables.
    const isFrame = marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc;
    if (isFrame) {
      const height = ((bytes[at + 5] ?? 0) << 8) | (bytes[at + 6] ?? 0);
      const width = ((bytes[at + 7] ?? 0) << 8) | (bytes[at + 8] ?? 0);
      return width && height ? { width, height } : undefined;
    }
    // The picture itself begins without a frame: there is none.
    if (marker === 0xda || marker === 0xd9) return undefined;
    at += 2 + length;
  }
  return undefined;
}
