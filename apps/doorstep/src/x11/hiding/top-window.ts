import type { Rect } from '@porch/screen';

/** What of a window is drawn, by its place in it; nothing, of one that only takes input; unknown, until the server has said. */
export type Drawn = 'unknown' | 'whole' | 'nothing' | readonly Rect[];

/** A child of the root window, as it lies now, and what of it must not be seen. */
export interface TopWindow {
  readonly id: number;
  /** Which program made it. */
  readonly program: number;
  /** Windows that it is the frame of, and whose they are: a window manager puts one around each. */
  readonly holds: Map<number, number>;
  rect: Rect;
  border: number;
  isMapped: boolean;
  drawn: Drawn;
  /** A notification that came, or might be one, while none is to be shown: until it is gone. */
  isKeptOut: boolean;
  /** What of it is covered, by its place in the window. */
  readonly parts: Set<Rect>;
}

export const topWindow = (id: number, program: number, rect: Rect, border: number): TopWindow => ({
  id,
  program,
  holds: new Map(),
  rect,
  border,
  isMapped: false,
  drawn: 'unknown',
  isKeptOut: false,
  parts: new Set(),
});

/** Whether it is, or holds, a window of one of these programs. */
export const isOfAny = ({ program, holds }: TopWindow, programs: ReadonlySet<number>): boolean =>
  programs.has(program) || [...holds.values()].some((held) => programs.has(held));

/** Whether it is a window of this program, or a frame around nothing else: one that holds several may show any of them. */
export const isOfNoneBut = ({ program, holds }: TopWindow, only: number): boolean =>
  holds.size ? [...holds.values()].every((held) => held === only) : program === only;

/** What it draws, where that lies on the screen. */
export function drawnOf({ rect, border, drawn }: TopWindow): readonly Rect[] {
  if (drawn === 'unknown' || drawn === 'nothing') return [];
  if (drawn === 'whole') return [rect];
  return drawn.map((part) => ({ ...part, x: rect.x + border + part.x, y: rect.y + border + part.y }));
}

/** Its covered parts, where they lie on the screen. */
export const partsOf = ({ rect, parts }: TopWindow): Rect[] =>
  [...parts].map((part) => ({ ...part, x: rect.x + part.x, y: rect.y + part.y }));
