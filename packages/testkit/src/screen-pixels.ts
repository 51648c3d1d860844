import type { XConnection } from '@porch/doorstep';

const Z_PIXMAP = 2;
const ALL_PLANES = 0xffffffff;

/** What the X server shows of the screen, words 0xRRGGBB: nobody in this process waits meanwhile. */
export async function screenPixels(
  x: XConnection,
  part: { x: number; y: number; width: number; height: number },
): Promise<Uint32Array> {
  const { width, height } = part;
  const { data } = await x.ask<{ data: Buffer }>((cb) =>
    x.client.GetImage(Z_PIXMAP, x.root, part.x, part.y, width, height, ALL_PLANES, cb),
  );
  return new Uint32Array(data.buffer.slice(data.byteOffset, data.byteOffset + width * height * 4)).map(
    (word) => word & 0xffffff,
  );
}
