import { growingKinds, MAX_GROWN_POINTS, type Clock, type Mark, type MarkMessage } from '@porch/wire';

/** A point that was shown goes by itself after this. */
export const POINT_MS = 3_000;
/** What was drawn to fade goes this long after its last stroke. */
export const FADE_MS = 8_000;
/** The oldest of somebody's marks go first beyond this. */
export const MAX_MARKS = 60;

/** A mark as it is shown: whose, on which display. A new one that takes the place of another has another key. */
export interface ShownMark {
  readonly key: number;
  readonly seat: number;
  readonly id: number;
  readonly display: number;
  readonly fades: boolean;
  readonly mark: Mark;
}

/** Each person a colour, all of them readable on light and dark; the name stands beside it, too. */
const colours = ['#c2410c', '#1d4ed8', '#7e22ce', '#0f766e'];
export const markColour = (seat: number): string => colours[seat % colours.length] ?? '#c2410c';
/** How wide a mark's strokes are, in points of the picture at its own size. */
export const strokePx = ({ kind }: Pick<Mark, 'kind'>): number => (kind === 'marker' ? 22 : 5);

/** A share of a side, however far outside a hand went. */
export const inUnit = (share: number): number => Math.min(1, Math.max(0, share));

type Place = Mark['points'][number];

/** A point's ring, as a share of the picture's width. */
const RING = 0.012;
const RING_CORNERS = 24;

/**
 * A mark as lines through places on the picture, in shares of its sides. `proportion` is the picture's width over its
 * height, so that an arrow's head and a ring are not squeezed. What is written has no lines.
 */
export function markLines({ kind, points }: Mark, proportion: number): Place[][] {
  const first = points[0];
  const last = points.at(-1) ?? first;
  if (!first || !last) return [];
  switch (kind) {
    case 'point': {
      const corner = (_: unknown, i: number): Place => {
        const angle = (2 * Math.PI * i) / RING_CORNERS;
        return { x: first.x + RING * Math.cos(angle), y: first.y + RING * proportion * Math.sin(angle) };
      };
      return [Array.from({ length: RING_CORNERS + 1 }, corner)];
    }
    case 'box':
      return [[first, { x: last.x, y: first.y }, last, { x: first.x, y: last.y }, first]];
    case 'arrow': {
      const [dx, dy] = [(last.x - first.x) * proportion, last.y - first.y];
      const length = Math.hypot(dx, dy) || 1;
      const head = Math.min(0.05, length / 2);
      const side = (turn: number): Place => {
        const angle = Math.atan2(dy, dx) + turn;
        return { x: last.x - (head * Math.cos(angle)) / proportion, y: last.y - head * Math.sin(angle) };
      };
      return [
        [first, last],
        [side(0.5), last, side(-0.5)],
      ];
    }
    case 'pen':
    case 'marker':
      return [[...points]];
    case 'text':
      return [];
  }
}

const SIDE = 1_000;
const at = ({ x, y }: Place) => `${(x * SIDE).toFixed(1)} ${(y * SIDE).toFixed(1)}`;

/** The same as an SVG path in a box of 1000 by 1000 that is stretched over the picture. */
export const markPath = (mark: Mark, proportion: number): string =>
  markLines(mark, proportion)
    .map((line) => `M ${line.map(at).join(' L ')}`)
    .join(' ');

/** Marks with one more, each person's oldest gone beyond the bound; a new point takes the place of their last one. */
export function withMark(marks: readonly ShownMark[], added: ShownMark): ShownMark[] {
  const others = marks.filter((m) => m.seat !== added.seat);
  const replaces = (m: ShownMark) =>
    (m.mark.kind === 'point' && added.mark.kind === 'point') || (added.id > 0 && m.id === added.id);
  const mine = marks.filter((m) => m.seat === added.seat && !replaces(m));
  return [...others, ...mine.slice(-(MAX_MARKS - 1)), added];
}

/** Marks of which one goes on; the same list when there is no such mark, or it grows no further. */
export function withMore(marks: readonly ShownMark[], seat: number, id: number, points: Mark['points']): ShownMark[] {
  return marks.map((m) => {
    const room = MAX_GROWN_POINTS - m.mark.points.length;
    if (m.seat !== seat || m.id !== id || id === 0 || room <= 0 || !growingKinds.includes(m.mark.kind)) return m;
    return { ...m, mark: { ...m.mark, points: [...m.mark.points, ...points.slice(0, room)] } };
  });
}

/** Marks without the last, or without any, of one person, or without any at all. */
export function withoutMark(
  marks: readonly ShownMark[],
  seat: number,
  which: 'last' | 'all' | 'everybodys',
): ShownMark[] {
  if (which === 'everybodys') return [];
  if (which === 'all') return marks.filter((m) => m.seat !== seat);
  const last = marks.findLast((m) => m.seat === seat);
  return marks.filter((m) => m !== last);
}

/** What is pointed at and drawn just now: takes what each person does, and lets go by itself what does not stay. */
export class MarkBoard {
  readonly #clock: Clock;
  readonly #show: (marks: readonly ShownMark[]) => void;
  /** By key: what ends it. */
  readonly #fading = new Map<number, () => void>();
  #lastKey = 0;
  #marks: readonly ShownMark[] = [];

  /** `show` is told every time that something is different. */
  constructor(clock: Clock, show: (marks: readonly ShownMark[]) => void) {
    this.#clock = clock;
    this.#show = show;
  }

  get marks(): readonly ShownMark[] {
    return this.#marks;
  }

  take(seat: number, message: MarkMessage): void {
    if (message.type === 'unmark') return this.#set(withoutMark(this.#marks, seat, message.which));
    if (message.type === 'more') {
      this.#set(withMore(this.#marks, seat, message.id, message.points));
      const grown = this.#marks.find((m) => m.seat === seat && m.id === message.id);
      if (grown) this.#fade(grown);
      return;
    }
    const { id, display, fades, mark } = message;
    const shown: ShownMark = { key: ++this.#lastKey, seat, id, display, fades, mark };
    this.#set(withMark(this.#marks, shown));
    this.#fade(shown);
  }

  /** Those for which it is false go. */
  keep(isKept: (mark: ShownMark) => boolean): void {
    const kept = this.#marks.filter(isKept);
    if (kept.length !== this.#marks.length) this.#set(kept);
  }

  close(): void {
    this.#set([]);
  }

  #set(marks: readonly ShownMark[]): void {
    this.#marks = marks;
    const keys = new Set(marks.map(({ key }) => key));
    for (const [key, cancel] of this.#fading)
      if (!keys.has(key)) {
        cancel();
        this.#fading.delete(key);
      }
    this.#show(marks);
  }

  #fade({ key, mark, fades }: ShownMark): void {
    if (mark.kind !== 'point' && !fades) return;
    this.#fading.get(key)?.();
    const afterMs = mark.kind === 'point' ? POINT_MS : FADE_MS;
    this.#fading.set(
      key,
      this.#clock.after(afterMs, () => this.keep((m) => m.key !== key)),
    );
  }
}
