import type { Rect } from '@porch/screen';
import type { XEvent } from 'x11';

/* Rectangles of windows: from what a server says of them, and what remains of them. */

export function rectOf(at: { xPos: number; yPos: number; width: number; height: number; borderWidth?: number }): Rect {
  const border = 2 * (at.borderWidth ?? 0);
  return { x: at.xPos, y: at.yPos, width: at.width + border, height: at.height + border };
}

export function rectOfEvent(event: XEvent): Rect {
  const border = 2 * ((event['borderWidth'] as number | undefined) ?? 0);
  return {
    x: event.x ?? 0,
    y: event.y ?? 0,
    width: (event.width ?? 0) + border,
    height: (event.height ?? 0) + border,
  };
}

/** The smallest that holds both. */
export function around(a: Rect, b: Rect): Rect {
  const [x, y] = [Math.min(a.x, b.x), Math.min(a.y, b.y)];
  const right = Math.max(a.x + a.width, b.x + b.width);
  return { x, y, width: right - x, height: Math.max(a.y + a.height, b.y + b.height) - y };
}

/** The smallest that holds all of them; there is at least one. */
export const boundsOf = (rects: readonly Rect[]): Rect => rects.reduce(around);

/** What lies in both; undefined when nothing does. */
export function common(a: Rect, b: Rect): Rect | undefined {
  const [x, y] = [Math.max(a.x, b.x), Math.max(a.y, b.y)];
  const width = Math.min(a.x + a.width, b.x + b.width) - x;
  const height = Math.min(a.y + a.height, b.y + b.height) - y;
  return width > 0 && height > 0 ? { x, y, width, height } : undefined;
}

/** What of a rectangle lies outside of another: at most four pieces. */
export function without(rect: Rect, hole: Rect): Rect[] {
  const x0 = Math.max(rect.x, hole.x);
  const y0 = Math.max(rect.y, hole.y);
  const x1 = Math.min(rect.x + rect.width, hole.x + hole.width);
  const y1 = Math.min(rect.y + rect.height, hole.y + hole.height);
  if (x0 >= x1 || y0 >= y1) return [rect];
  const pieces: Rect[] = [
    { x: rect.x, y: rect.y, width: rect.width, height: y0 - rect.y },
    { x: rect.x, y: y1, width: rect.width, height: rect.y + rect.height - y1 },
    { x: rect.x, y: y0, width: x0 - rect.x, height: y1 - y0 },
    { x: x1, y: y0, width: rect.x + rect.width - x1, height: y1 - y0 },
  ];
  return pieces.filter((piece) => piece.width > 0 && piece.height > 0);
}
