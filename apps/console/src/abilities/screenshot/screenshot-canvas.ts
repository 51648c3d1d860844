import { fillWithRgb, type TakenScreenshot } from '@porch/client';
import { inflateInPlainCode } from '@porch/screen';

export function imageOf({ width, height, packed }: TakenScreenshot): ImageData {
  const rgb = inflateInPlainCode(packed, width * height * 3);
  const image = new ImageData(width, height);
  fillWithRgb(image.data, rgb);
  return image;
}

/** In pieces: a call takes only so many arguments. */
export function base64Of(bytes: Uint8Array): string {
  let binary = '';
  for (let at = 0; at < bytes.length; at += 32_768) binary += String.fromCharCode(...bytes.subarray(at, at + 32_768));
  return btoa(binary);
}
