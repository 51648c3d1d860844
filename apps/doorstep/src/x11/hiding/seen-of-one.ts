import type { Rect } from '@porch/screen';
import { without } from '../server/rects.ts';

/** A window of the screen: what of it is drawn when it is of those that are shown, and all that it takes when it is not. */
export interface Layer {
  readonly isShown: boolean;
  readonly rects: readonly Rect[];
}

/** Further than any screen reaches: coordinates of X have 16 bits. */
export const EVERYWHERE: Rect = { x: 0, y: 0, width: 32_767, height: 32_767 };

/** What of the first lies in none of the others. */
export const restOf = (rects: readonly Rect[], others: readonly Rect[]): Rect[] =>
  others.reduce<Rect[]>((left, hole) => left.flatMap((rect) => without(rect, hole)), [...rects]);

/** What is to be seen of those that are shown, where no other lies over it; from the lowest window to the highest. */
export function seenOf(layers: readonly Layer[]): Rect[] {
  const above: Rect[] = [];
  const seen: Rect[] = [];
  for (const { isShown, rects } of layers.toReversed())
    if (isShown) seen.push(...restOf(rects, above));
    else above.push(...rects);
  return seen;
}

export const allBut = (seen: readonly Rect[]): Rect[] => restOf([EVERYWHERE], seen);
