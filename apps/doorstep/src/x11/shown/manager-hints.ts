import type { XConnection } from '../server/connection.ts';

/** Predefined atoms of the X11 protocol. */
const [ATOM, CARDINAL, STRING, WM_NAME, WM_NORMAL_HINTS, WM_SIZE_HINTS] = [4, 6, 31, 39, 40, 41];
const REPLACE = 0;
/** Of WM_SIZE_HINTS (ICCCM, section 4.1.2.3): a least size stands in words 5 and 6, and the place that was chosen is meant. */
const [LEAST_SIZE, CHOSEN_PLACE] = [1 << 4, 1 << 0];
const SIZE_HINT_WORDS = 18;

const words = (...numbers: number[]): Buffer => {
  const bytes = Buffer.alloc(numbers.length * 4);
  numbers.forEach((number, i) => bytes.writeUInt32LE(number, i * 4));
  return bytes;
};

/**
 * What a window manager should know of a window: its title, how small it may be, that it wants to be told to close, and that
 * it takes the keyboard from nobody when it comes (a user time of 0: Extended Window Manager Hints 1.5, _NET_WM_USER_TIME).
 */
export async function setManagerHints(
  x: XConnection,
  window: number,
  {
    title,
    least,
    at,
  }: {
    readonly title: string;
    readonly least: { readonly width: number; readonly height: number };
    readonly at: { readonly x: number; readonly y: number };
  },
): Promise<void> {
  const { client } = x;
  const [protocols, deletes, name, utf8, userTime] = await Promise.all(
    ['WM_PROTOCOLS', 'WM_DELETE_WINDOW', '_NET_WM_NAME', 'UTF8_STRING', '_NET_WM_USER_TIME'].map((atom) =>
      x.atom(atom),
    ),
  );
  const set = (property: number | undefined, type: number | undefined, format: number, data: Buffer) =>
    client.ChangeProperty(REPLACE, window, property ?? 0, type ?? 0, format, data);
  set(WM_NAME, STRING, 8, Buffer.from(title, 'latin1'));
  set(name, utf8, 8, Buffer.from(title, 'utf8'));
  set(protocols, ATOM, 32, words(deletes ?? 0));
  set(userTime, CARDINAL, 32, words(0));
  const hints = Array.from({ length: SIZE_HINT_WORDS }, () => 0);
  [hints[0], hints[1], hints[2]] = [LEAST_SIZE | CHOSEN_PLACE, at.x, at.y];
  [hints[5], hints[6]] = [least.width, least.height];
  set(WM_NORMAL_HINTS, WM_SIZE_HINTS, 32, words(...hints));
}
