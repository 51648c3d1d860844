import type { Rect } from '@porch/screen';
import type { FieldPlace } from '../../accessibility/password-focus.ts';
import type { FocusedWindow } from './focused-window.ts';

/** What programs say of a place may be rounded. */
const OFF_PX = 1;
/** So much more than the field itself is covered: its frame, and what is rounded. */
const MARGIN_PX = 3;
/** What is smaller is no field. */
const LEAST_PX = 4;

const isSame = (a: number, b: number): boolean => Math.abs(a - b) <= OFF_PX;

/**
 * Where a field lies in the child of the root that it is in, with a margin. Undefined unless what its program says of the
 * window is what the X server says of it, and the field lies within.
 */
export function whereIn(
  { field, window }: FieldPlace,
  real: Pick<FocusedWindow, 'rect' | 'topRect'>,
): Rect | undefined {
  const { rect, topRect } = real;
  // Some programs count what the window manager draws around it.
  const agree = [rect, topRect].some(
    (said) =>
      isSame(window.x, said.x) &&
      isSame(window.y, said.y) &&
      isSame(window.width, said.width) &&
      isSame(window.height, said.height),
  );
  const isField = field.width >= LEAST_PX && field.height >= LEAST_PX;
  const isWithin =
    field.x >= window.x - OFF_PX &&
    field.y >= window.y - OFF_PX &&
    field.x + field.width <= window.x + window.width + OFF_PX &&
    field.y + field.height <= window.y + window.height + OFF_PX;
  if (!agree || !isField || !isWithin) return undefined;
  return {
    x: field.x - topRect.x - MARGIN_PX,
    y: field.y - topRect.y - MARGIN_PX,
    width: field.width + 2 * MARGIN_PX,
    height: field.height + 2 * MARGIN_PX,
  };
}
