import { HEADER_PX } from './frame.ts';
import { fitted } from './view.ts';

interface Size {
  readonly width: number;
  readonly height: number;
}
/** So much of the display it takes at most by itself; the person makes it larger. */
const SHARE_OF_DISPLAY = 0.66;
export const LEAST: Size = { width: 360, height: 240 };

export const sizeAtFirst = (display: Size): Size => ({
  width: Math.floor(Math.max(LEAST.width, display.width * SHARE_OF_DISPLAY)),
  height: Math.floor(Math.max(LEAST.height, display.height * SHARE_OF_DISPLAY)),
});

/** As wide and as high as a picture needs it to be, within what it may take by itself. */
export function sizeFor(picture: Size, display: Size): Size {
  const [width, height] = [display.width * SHARE_OF_DISPLAY, display.height * SHARE_OF_DISPLAY - HEADER_PX];
  const { box } = fitted(picture, { x: 0, y: 0, width, height });
  return { width: Math.max(LEAST.width, box.width), height: Math.max(LEAST.height, box.height + HEADER_PX) };
}
