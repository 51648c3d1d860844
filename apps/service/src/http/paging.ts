import { AppError } from '@porch/wire';

export interface PageAsked {
  readonly limit: number;
  readonly cursor?: string | undefined;
}
/** Where a thing stands in its list: things are in the order of the first, and of the second where that is the same. */
export type Place = readonly [place: string | number, id: string];

const isBefore = ([a, aId]: Place, [b, bId]: Place): boolean => (a === b ? aId < bId : a < b);

/**
 * One page of a list that is in memory, in the order of places. A cursor is a place: the next page goes on behind it, also
 * when what stood there has gone. Throws CURSOR_UNKNOWN for what is none of this list.
 */
export function pageOfList<T>(
  list: readonly T[],
  { limit, cursor }: PageAsked,
  name: string,
  placeOf: (thing: T) => Place,
): { items: T[]; next?: string } {
  const after = cursor === undefined ? undefined : readCursor(cursor, name);
  const placed = list
    .map((thing) => ({ thing, place: placeOf(thing) }))
    .filter(({ place }) => after === undefined || isBefore(after, place))
    .sort((a, b) => (isBefore(a.place, b.place) ? -1 : 1));
  const items = placed.slice(0, limit);
  const last = items.at(-1);
  return {
    items: items.map(({ thing }) => thing),
    ...(last && placed.length > limit
      ? { next: Buffer.from(JSON.stringify([name, ...last.place])).toString('base64url') }
      : {}),
  };
}

function readCursor(cursor: string, name: string): Place {
  try {
    const [of, place, id] = JSON.parse(Buffer.from(cursor, 'base64url').toString()) as unknown[];
    if (of === name && typeof id === 'string' && (typeof place === 'string' || typeof place === 'number'))
      return [place, id];
  } catch {
    // Said below.
  }
  throw new AppError('CURSOR_UNKNOWN');
}
