import type { XInput } from 'x11';
import type { XConnection } from './connection.ts';

interface Device {
  readonly deviceId: number;
  readonly name: string;
  readonly use: number;
}
const SLAVE_POINTER = 3;
const SLAVE_KEYBOARD = 4;
/** Modifier bits of the X11 protocol. */
export const CONTROL_AND_ALT = 4 | 8;

const allDevices = (x: XConnection, xinput: XInput): Promise<Device[]> =>
  x.ask<Device[]>((cb) => xinput.XIQueryDevice(0, cb));
const isSynthetic = ({ name }: Device): boolean => /XTEST/i.test(name);
export const isKeyboard = ({ use }: Device): boolean => use === SLAVE_KEYBOARD;

const MASTER_KEYBOARD = 2;
/** The keyboard as programs see it: all that somebody has, together. */
export async function masterKeyboard(x: XConnection, xinput: XInput): Promise<number> {
  return (await allDevices(x, xinput)).find(({ use }) => use === MASTER_KEYBOARD)?.deviceId ?? 0;
}

/** The person's own mice and keyboards. */
export async function realDevices(x: XConnection, xinput: XInput): Promise<Device[]> {
  const devices = await allDevices(x, xinput);
  return devices.filter((one) => (one.use === SLAVE_POINTER || isKeyboard(one)) && !isSynthetic(one));
}

/** What an X server makes of a key: keysyms of one keycode, as the protocol lays two groups of two levels out, then more. */
export type KeyColumns = ReadonlyMap<number, readonly number[]>;

export async function readKeyColumns(x: XConnection): Promise<KeyColumns> {
  const { min_keycode: first, max_keycode: last } = x.client.display;
  const map = await x.ask<number[][]>((cb) => x.client.GetKeyboardMapping(first, last - first + 1, cb));
  return new Map(map.map((keysyms, i) => [first + i, keysyms]));
}
/** Which keysym each keycode has without a modifier. */
export async function readKeysyms(x: XConnection): Promise<Map<number, number>> {
  return new Map([...(await readKeyColumns(x))].map(([keycode, keysyms]) => [keycode, keysyms[0] ?? 0]));
}

/** Which modifier bits of the X11 protocol each keycode sets while it is held. */
export async function readModifiers(x: XConnection): Promise<Map<number, number>> {
  const rows = await x.ask<number[][]>((cb) => x.client.GetModifierMapping(cb));
  const bitsOf = new Map<number, number>();
  rows.forEach((keycodes, i) => {
    for (const code of keycodes) if (code !== 0) bitsOf.set(code, (bitsOf.get(code) ?? 0) | (1 << i));
  });
  return bitsOf;
}

/** Raw events of every device: where the pointer goes, and whether a person moved it. One mask for all who listen. */
export function selectRawEvents(x: XConnection, xinput: XInput): void {
  const { RawMotion = 0, RawButtonPress = 0, RawKeyPress = 0, RawKeyRelease = 0 } = xinput.EventMask;
  const mask = RawMotion | RawButtonPress | RawKeyPress | RawKeyRelease;
  xinput.XISelectEvents(x.root, [{ deviceId: 1, mask }]);
}
