import type { Rect } from '@porch/screen';

/** A child of the root window, as it lies now, and what of it must not be seen. */
export interface TopWindow {
  rect: Rect;
  isMapped: boolean;
  isHidden: boolean;
  /** A notification that came, or might be one, while none is to be shown: until it is gone. */
  isKeptOut: boolean;
  /** What of it is covered, by its place in the window. */
  readonly parts: Set<Rect>;
}

export const topWindow = (rect: Rect, isMapped: boolean, isHidden: boolean): TopWindow => ({
  rect,
  isMapped,
  isHidden,
  isKeptOut: false,
  parts: new Set(),
});

/** Whether anything of it is not to be seen while it is. */
export const hidesAny = ({ isHidden, isKeptOut, parts }: TopWindow): boolean => isHidden || isKeptOut || parts.size > 0;

/** What of a window must be covered just now. */
export const coveredOf = ({ rect, isMapped, isHidden, isKeptOut, parts }: TopWindow): Rect[] => {
  if (!isMapped) return [];
  if (isHidden || isKeptOut) return [rect];
  return [...parts].map((part) => ({ ...part, x: rect.x + part.x, y: rect.y + part.y }));
};
