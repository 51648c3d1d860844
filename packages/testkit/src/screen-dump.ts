import { execFileSync } from 'node:child_process';

/** Reads the X Window Dump format, version 7, of a 24-bit TrueColor screen: 0xRRGGBB words, row by row. */
function xwdPixels(dump: Buffer): { width: number; height: number; pixels: Uint32Array } {
  const field = (n: number) => dump.readUInt32BE(n * 4);
  const [headerBytes, width, height, bitsPerPixel, bytesPerLine, colours] = [
    field(0),
    field(4),
    field(5),
    field(11),
    field(12),
    field(19),
  ];
  const start = headerBytes + colours * 12;
  const bytesPerPixel = bitsPerPixel / 8;
  const pixels = new Uint32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      pixels[y * width + x] = dump.readUIntLE(start + y * bytesPerLine + x * bytesPerPixel, 3);
  return { width, height, pixels };
}

/** A window that goes while xwd looks at it makes it give up; then it looks again. */
const DUMP_TRIES = 10;
function dump(display: string): Buffer {
  for (let attempt = 1; ; attempt++)
    try {
      return execFileSync('xwd', ['-root', '-silent', '-display', display], {
        maxBuffer: 64 * 1024 * 1024,
        stdio: 'pipe',
      });
    } catch (error) {
      if (attempt === DUMP_TRIES || !/BadWindow|BadDrawable/.test(String((error as { stderr?: Buffer }).stderr)))
        throw error;
    }
}

/** An independent dump of an X screen, or of a part of it: words 0xRRGGBB. */
export function dumpScreen(
  display: string,
  part?: { x: number; y: number; width: number; height: number },
): Uint32Array {
  const { width, height, pixels } = xwdPixels(dump(display));
  const on = part ?? { x: 0, y: 0, width, height };
  const out = new Uint32Array(on.width * on.height);
  for (let row = 0; row < on.height; row++) {
    const from = (on.y + row) * width + on.x;
    out.set(pixels.subarray(from, from + on.width), row * on.width);
  }
  return out;
}
