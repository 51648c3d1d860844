import { CONTROL_AND_ALT } from '../server/input-events.ts';
import { modernKeysym } from '../server/legacy-keysyms.ts';

/** Longer than this is no password. */
const MOST_CHARACTERS = 200;
const BACKSPACE = 0xff08;
const ESCAPE = 0xff1b;
const SHIFT = 1;
const LOCK = 2;
/** Where layouts keep the key that European ones call AltGr, and the second group (XKB protocol, section 17). */
const THIRD = 0x80;
const UNICODE_MARK = 0x01000000;
const KEYPAD = { first: 0xffb0, last: 0xffb9 } as const;

/** The keysym of a key with what is held (X11 protocol, section 5; levels three and four as XKB servers show them). */
export function keysymWith(columns: readonly number[], state: number, group: number): number {
  const isThird = (state & THIRD) !== 0;
  const first = isThird ? 4 : group > 0 && columns[2] ? 2 : 0;
  const [plain = 0, shifted = 0] = columns.slice(first, first + 2);
  const isLetter = characterOf(plain).toLowerCase() !== characterOf(plain).toUpperCase();
  const isUpper = ((state & SHIFT) !== 0) !== ((state & LOCK) !== 0 && isLetter);
  return isUpper && shifted ? shifted : plain;
}

/** What a keysym writes; nothing where it writes nothing. */
export function characterOf(keysym: number): string {
  if (keysym >= KEYPAD.first && keysym <= KEYPAD.last) return String(keysym - KEYPAD.first);
  const modern = modernKeysym(keysym);
  const point = modern & UNICODE_MARK ? modern & 0xffffff : modern;
  const isText =
    (point >= 0x20 && point <= 0x7e) ||
    (point >= 0xa0 && point <= 0x10ffff && (point <= 0xff || !!(modern & UNICODE_MARK)));
  return isText ? String.fromCodePoint(point) : '';
}

/** What somebody types where it is shown as dots. */
export class TypedText {
  #text = '';

  get text(): string {
    return this.#text;
  }
  get length(): number {
    return [...this.#text].length;
  }

  /** Whether the key was for the text, and not for the buttons beneath it. */
  take(keysym: number, state: number): boolean {
    if (keysym === BACKSPACE) this.#text = [...this.#text].slice(0, -1).join('');
    else if (keysym === ESCAPE) this.#text = '';
    else if (state & CONTROL_AND_ALT && !(state & THIRD)) return false;
    else {
      const character = characterOf(keysym);
      if (!character) return false;
      if (this.length < MOST_CHARACTERS) this.#text += character;
    }
    return true;
  }
  clear(): void {
    this.#text = '';
  }
}
