import { fillWithRgb, type TakenScreenshot } from '@porch/client';
import { inflateInPlainCode } from '@porch/screen';

/** A part of a screenshot, in its own pixels. */
export interface Box {
  readonly kind: 'mark' | 'blank';
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

const MARK_COLOUR = '#c2410c';
const MARK_WIDTH = 4;

export function imageOf({ width, height, packed }: TakenScreenshot): ImageData {
  const rgb = inflateInPlainCode(packed, width * height * 3);
  const image = new ImageData(width, height);
  fillWithRgb(image.data, rgb);
  return image;
}

/** Blanked first: what is blanked is not in the picture any longer, whatever is drawn over it. */
export function draw(context: CanvasRenderingContext2D, image: ImageData, boxes: readonly Box[]): void {
  context.putImageData(image, 0, 0);
  context.fillStyle = '#000';
  for (const { kind, x, y, width, height } of boxes) if (kind === 'blank') context.fillRect(x, y, width, height);
  context.strokeStyle = MARK_COLOUR;
  context.lineWidth = MARK_WIDTH;
  for (const { kind, x, y, width, height } of boxes) if (kind === 'mark') context.strokeRect(x, y, width, height);
}

/** From one corner to another, whichever way it was drawn; whole pixels. */
export function boxBetween(kind: Box['kind'], a: { x: number; y: number }, b: { x: number; y: number }): Box {
  const [left, top] = [Math.round(Math.min(a.x, b.x)), Math.round(Math.min(a.y, b.y))];
  const [right, bottom] = [Math.round(Math.max(a.x, b.x)), Math.round(Math.max(a.y, b.y))];
  return { kind, x: left, y: top, width: right - left, height: bottom - top };
}

export const pngOf = (canvas: HTMLCanvasElement): Promise<Uint8Array> =>
  new Promise((resolve, reject) => {
    canvas.toBlob((blob) => {
      if (blob) blob.arrayBuffer().then((bytes) => resolve(new Uint8Array(bytes)), reject);
      else reject(new Error('the browser makes no picture of this size'));
    }, 'image/png');
  });

/** In pieces: a call takes only so many arguments. */
export function base64Of(bytes: Uint8Array): string {
  let binary = '';
  for (let at = 0; at < bytes.length; at += 32_768) binary += String.fromCharCode(...bytes.subarray(at, at + 32_768));
  return btoa(binary);
}
