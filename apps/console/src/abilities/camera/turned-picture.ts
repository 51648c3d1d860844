import type { CameraPicture } from '@porch/client';

/** Draws a picture, turned by so many quarters to the right; the canvas takes its size. */
export async function drawTurned(
  canvas: HTMLCanvasElement | OffscreenCanvas,
  { jpeg }: CameraPicture,
  quarters: number,
): Promise<void> {
  const bitmap = await createImageBitmap(new Blob([jpeg], { type: 'image/jpeg' }));
  try {
    const { width, height } = bitmap;
    const isOnItsSide = quarters % 2 === 1;
    const [w, h] = isOnItsSide ? [height, width] : [width, height];
    if (canvas.width !== w) canvas.width = w;
    if (canvas.height !== h) canvas.height = h;
    const context = canvas.getContext('2d') as CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D | null;
    if (!context) throw new Error('this browser draws no pictures');
    context.setTransform(1, 0, 0, 1, w / 2, h / 2);
    context.rotate((quarters * Math.PI) / 2);
    context.drawImage(bitmap, -width / 2, -height / 2);
  } finally {
    bitmap.close();
  }
}

/** Its pixels, turned, to be drawn on. */
export async function pixelsOf(picture: CameraPicture, quarters: number): Promise<ImageData> {
  const canvas = new OffscreenCanvas(1, 1);
  await drawTurned(canvas, picture, quarters);
  const context = canvas.getContext('2d');
  if (!context) throw new Error('this browser draws no pictures');
  return context.getImageData(0, 0, canvas.width, canvas.height);
}
