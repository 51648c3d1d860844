import { CONTROL_AND_ALT, readKeysyms, readModifiers } from '../server/input-events.ts';
import type { XConnection } from '../server/connection.ts';

const ESCAPE = 0xff1b;
/**
 * Where it lies on every keyboard of this system (Linux's KEY_ESC, and 8). It counts whatever the map of the keyboard says:
 * who works here could have changed that.
 */
const ESCAPE_KEYCODE = 9;
const LETTER_S = 0x73;

/** What the person's own keys say while their mouse and keyboard, or their screen, rest. */
export class LiftingKeys {
  readonly #keysyms: ReadonlyMap<number, number>;
  readonly #bitsOf: ReadonlyMap<number, number>;
  readonly #down = new Set<number>();

  private constructor(keysyms: ReadonlyMap<number, number>, bitsOf: ReadonlyMap<number, number>) {
    this.#keysyms = keysyms;
    this.#bitsOf = bitsOf;
  }
  static async read(x: XConnection): Promise<LiftingKeys> {
    return new LiftingKeys(await readKeysyms(x), await readModifiers(x));
  }

  /** What this press asks for; undefined for every other key. */
  press(keycode: number): 'key' | 'stop' | undefined {
    this.#down.add(keycode);
    const keysym = this.#keysyms.get(keycode);
    if (keycode === ESCAPE_KEYCODE || keysym === ESCAPE) return 'key';
    const bits = [...this.#down].reduce((all, held) => all | (this.#bitsOf.get(held) ?? 0), 0);
    return keysym === LETTER_S && (bits & CONTROL_AND_ALT) === CONTROL_AND_ALT ? 'stop' : undefined;
  }
  release(keycode: number): void {
    this.#down.delete(keycode);
  }
}
