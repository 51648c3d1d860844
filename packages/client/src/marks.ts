import type { Mark } from '@porch/wire';

/** A point that was shown goes by itself after this; what was drawn stays until it is taken away. */
export const POINT_MS = 3_000;
/** The oldest of somebody's marks go first beyond this. */
export const MAX_MARKS = 60;

export interface ShownMark {
  readonly id: number;
  readonly seat: number;
  readonly mark: Mark;
}

/** Each person a colour, all of them readable on light and dark; the name stands beside it, too. */
const colours = ['#c2410c', '#1d4ed8', '#7e22ce', '#0f766e'];
export const markColour = (seat: number): string => colours[seat % colours.length] ?? '#c2410c';

const SIDE = 1_000;
const at = ({ x, y }: { x: number; y: number }) => `${(x * SIDE).toFixed(1)} ${(y * SIDE).toFixed(1)}`;

/**
 * A mark as an SVG path in a box of 1000 by 1000 that is stretched over the picture. `proportion` is the picture's width
 * over its height, so that an arrow's head and a point are not squeezed.
 */
export function markPath({ kind, points }: Mark, proportion: number): string {
  const first = points[0];
  const last = points.at(-1) ?? first;
  if (!first || !last) return '';
  switch (kind) {
    case 'point': {
      const [rx, ry] = [0.012 * SIDE, 0.012 * SIDE * proportion];
      const [x, y] = [first.x * SIDE, first.y * SIDE];
      return `M ${x - rx} ${y} a ${rx} ${ry} 0 1 0 ${2 * rx} 0 a ${rx} ${ry} 0 1 0 ${-2 * rx} 0`;
    }
    case 'box':
      return `M ${at(first)} L ${at({ x: last.x, y: first.y })} L ${at(last)} L ${at({ x: first.x, y: last.y })} Z`;
    case 'arrow': {
      const [dx, dy] = [(last.x - first.x) * proportion, last.y - first.y];
      const length = Math.hypot(dx, dy) || 1;
      const head = Math.min(0.05, length / 2);
      const side = (turn: number) => {
        const angle = Math.atan2(dy, dx) + turn;
        return at({ x: last.x - (head * Math.cos(angle)) / proportion, y: last.y - head * Math.sin(angle) });
      };
      return `M ${at(first)} L ${at(last)} M ${side(0.5)} L ${at(last)} L ${side(-0.5)}`;
    }
    case 'pen':
      return `M ${points.map(at).join(' L ')}`;
  }
}

/** Marks with one more, each person's oldest gone beyond the bound; a new point takes the place of their last one. */
export function withMark(marks: readonly ShownMark[], added: ShownMark): ShownMark[] {
  const others = marks.filter((m) => m.seat !== added.seat);
  const mine = marks.filter((m) => m.seat === added.seat && !(m.mark.kind === 'point' && added.mark.kind === 'point'));
  return [...others, ...mine.slice(-(MAX_MARKS - 1)), added];
}

/** Marks without the last, or without any, of one person. */
export function withoutMark(marks: readonly ShownMark[], seat: number, which: 'last' | 'all'): ShownMark[] {
  if (which === 'all') return marks.filter((m) => m.seat !== seat);
  const last = marks.findLast((m) => m.seat === seat);
  return marks.filter((m) => m !== last);
}
