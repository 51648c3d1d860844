/** Reads the X Window Dump format, version 7, of a 24-bit TrueColor screen: 0xRRGGBB words, row by row. */
export function xwdPixels(dump: Buffer): { width: number; height: number; pixels: Uint32Array } {
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
