import type { XInput } from 'x11';
import { readKeysyms, readModifiers } from '../server/input-events.ts';
import type { XConnection } from '../server/connection.ts';

const ESCAPE = 0xff1b;
/**
 * Where it lies on every keyboard of this system (Linux's KEY_ESC, and 8). It counts whatever the map of the keyboard says:
 * who works here could have changed that.
 */
const ESCAPE_KEYCODE = 9;
const LETTER_S = 0x73;
const CONTROL_AND_ALT = 4 | 8;

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

interface Device {
  readonly deviceId: number;
  readonly name: string;
  readonly use: number;
}
const SLAVE_POINTER = 3;
const SLAVE_KEYBOARD = 4;

export const isKeyboard = ({ use }: Device): boolean => use === SLAVE_KEYBOARD;
/** The person's own devices: those that a program's presses come from are not among them. */
export async function realDevices(x: XConnection, xinput: XInput): Promise<Device[]> {
  const devices = await x.ask<Device[]>((cb) => xinput.XIQueryDevice(0, cb));
  return devices.filter(({ use, name }) => (use === SLAVE_POINTER || use === SLAVE_KEYBOARD) && !/XTEST/i.test(name));
}
