import { HEADER_PX } from './frame.ts';
import { fitted } from './view.ts';

interface Size {
  readonly width: number;
  readonly height: number;
}
/** Where a window lies at first, and how much of the display it takes at most by itself; the person makes it larger. */
export interface Standing {
  readonly share: number;
  readonly corner: 'above' | 'below';
}
export const LEAST: Size = { width: 360, height: 240 };
/** From the edges of the display, and above and below what is always there. */
const [ASIDE_PX, ABOVE_PX, BELOW_PX] = [24, 72, 56];

export const sizeAtFirst = (display: Size, { share }: Standing): Size => ({
  width: Math.floor(Math.max(LEAST.width, display.width * share)),
  height: Math.floor(Math.max(LEAST.height, display.height * share)),
});

/** At the right, above or below. */
export const placeOf = (size: Size, display: Size, { corner }: Standing): { x: number; y: number } => ({
  x: Math.max(0, display.width - size.width - ASIDE_PX),
  y: corner === 'above' ? ABOVE_PX : Math.max(0, display.height - size.height - BELOW_PX),
});

/** As wide and as high as a picture needs it to be, within what it may take by itself. */
export function sizeFor(picture: Size, display: Size, { share }: Standing): Size {
  const [width, height] = [display.width * share, display.height * share - HEADER_PX];
  const { box } = fitted(picture, { x: 0, y: 0, width, height });
  return { width: Math.max(LEAST.width, box.width), height: Math.max(LEAST.height, box.height + HEADER_PX) };
}
