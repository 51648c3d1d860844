import { modernKeysym } from '../server/legacy-keysyms.ts';

/** Where on this keyboard a character is: its key, and what is held with it. */
export interface Place {
  readonly keycode: number;
  readonly isShifted: boolean;
  /** With the key that European layouts call AltGr. */
  readonly isThird: boolean;
}

const LEVELS = 4;
/** As the protocol lays two groups out beside one another: with and without Shift, for the first, then for the second. */
const columnOf = (group: number, level: number): number => (level < 2 ? group * 2 + level : 2 + level);

/**
 * The keyboard's map (X11 protocol, GetKeyboardMapping; of several groups as the XKB protocol, section 12.4, shows them in
 * it). What the third and fourth level hold can be told only of keyboards with one group; of the third and fourth group
 * nothing can.
 */
export class KeyPlaces {
  readonly spares: readonly number[];
  readonly perKeycode: number;
  readonly #groups: readonly ReadonlyMap<number, Place>[];

  /** `lent` are keycodes that have a meaning of ours just now. */
  constructor(map: readonly (readonly number[])[], firstKeycode: number, lent: readonly number[]) {
    this.perKeycode = map[0]?.length ?? 2;
    const spares: number[] = [];
    const own: [number, readonly number[]][] = [];
    map.forEach((keysyms, i) => {
      const keycode = firstKeycode + i;
      if (lent.includes(keycode) || !keysyms.some((k) => k)) spares.push(keycode);
      else own.push([keycode, keysyms]);
    });
    this.spares = spares;
    const isOneGroup = own.every(([, k]) => (k[2] ?? 0) === (k[0] ?? 0) && (k[3] ?? 0) === (k[1] ?? 0));
    this.#groups = (isOneGroup ? [0] : [0, 1]).map((group) => placesOf(own, group, isOneGroup));
  }

  /** A named key stands where it stands, whatever group is chosen; a character may be none of the one that is. */
  placeOf(keysym: number, group: number): Place | undefined {
    const [first, second] = this.#groups;
    if (isNamed(keysym) || !second) return first?.get(keysym);
    return this.#groups[group]?.get(keysym);
  }
}

/** Keysyms of keys that make no character: modifiers, arrows and the like. */
const isNamed = (keysym: number): boolean => keysym >= 0xfe00 && keysym <= 0xffff;

function placesOf(own: readonly [number, readonly number[]][], group: number, hasThird: boolean): Map<number, Place> {
  const places = new Map<number, Place>();
  // What is reached with less is taken first, on whichever key.
  for (let level = 0; level < (hasThird ? LEVELS : 2); level++)
    for (const [keycode, keysyms] of own) {
      const keysym = modernKeysym(keysyms[columnOf(group, level)] ?? 0);
      if (keysym && !places.has(keysym))
        places.set(keysym, { keycode, isShifted: level % 2 === 1, isThird: level >= 2 });
    }
  return places;
}
