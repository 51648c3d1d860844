import type { Rect } from '@porch/screen';
import type { Box } from '../server/box.ts';

interface Size {
  readonly width: number;
  readonly height: number;
}

/** Where a picture lies in a window, and how much smaller it is drawn. */
export interface View {
  /** Of the window: where the picture is drawn. */
  readonly box: Box;
  /** Of the picture: its upper left corner in the box. */
  readonly from: { readonly x: number; readonly y: number };
  /** Pixels of the window for one of the picture; never more than 1. */
  readonly scale: number;
}

const clamp = (value: number, most: number): number => Math.max(0, Math.min(Math.floor(most), Math.round(value)));

/** The whole picture, as large as it fits and no larger than it is, in the middle. */
export function fitted(picture: Size, room: Box): View {
  const scale = Math.min(1, room.width / picture.width, room.height / picture.height);
  const width = Math.max(1, Math.floor(picture.width * scale));
  const height = Math.max(1, Math.floor(picture.height * scale));
  const [x, y] = [room.x + Math.floor((room.width - width) / 2), room.y + Math.floor((room.height - height) / 2)];
  return { box: { x, y, width, height }, from: { x: 0, y: 0 }, scale };
}

/** One pixel for one, from there on as far as the picture goes. */
export function original(picture: Size, room: Box, from: { readonly x: number; readonly y: number }): View {
  const width = Math.min(picture.width, room.width);
  const height = Math.min(picture.height, room.height);
  const [x, y] = [room.x + Math.floor((room.width - width) / 2), room.y + Math.floor((room.height - height) / 2)];
  return {
    box: { x, y, width, height },
    from: { x: clamp(from.x, picture.width - width), y: clamp(from.y, picture.height - height) },
    scale: 1,
  };
}

/** What of the box shows this part of the picture, as far as it is in sight. */
export function shownPart({ box, from, scale }: View, part: Rect): Rect | undefined {
  const left = Math.max(0, Math.floor((part.x - from.x) * scale));
  const top = Math.max(0, Math.floor((part.y - from.y) * scale));
  const right = Math.min(box.width, Math.ceil((part.x + part.width - from.x) * scale));
  const bottom = Math.min(box.height, Math.ceil((part.y + part.height - from.y) * scale));
  return right > left && bottom > top ? { x: left, y: top, width: right - left, height: bottom - top } : undefined;
}

/** Which point of the picture lies there in the window. */
export const pointAt = ({ box, from, scale }: View, x: number, y: number): { x: number; y: number } => ({
  x: from.x + (x - box.x) / scale,
  y: from.y + (y - box.y) / scale,
});

/** What of a part lies in a box of this size. */
export function inside(part: Rect, { width, height }: Size): Rect | undefined {
  const seen = { ...part, width: Math.min(part.width, width - part.x), height: Math.min(part.height, height - part.y) };
  return seen.width > 0 && seen.height > 0 ? seen : undefined;
}
