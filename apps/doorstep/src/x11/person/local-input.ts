import type { Listeners } from '@porch/client';
import type { XInput } from 'x11';
import { CONTROL_AND_ALT, readKeysyms, readModifiers, selectRawEvents } from '../server/input-events.ts';
import { OwnDevices } from '../server/own-devices.ts';
import type { XConnection } from '../server/connection.ts';
import type { Wishes } from '../wishes.ts';
import { HeldThen } from './held-then.ts';

/** A hand that trembles or a table that shakes is not a person taking over: this many pixels within the window are. */
const MOTION_PX = 6;
const MOTION_WINDOW_MS = 400;
/** Keysyms of the letters. */
const wishOfKey: Readonly<Record<number, 'stop' | 'private' | 'takeBack' | 'draw' | 'mute' | 'files'>> = {
  0x73: 'stop',
  0x70: 'private',
  0x74: 'takeBack',
  0x64: 'draw',
  0x6d: 'mute',
  0x66: 'files',
};

/** Hears the person's own mouse and keyboard; what programs press, ours too, is not theirs. */
export async function followLocalInput(
  x: XConnection,
  xinput: XInput,
  wishes: Listeners<Wishes>,
  onInput: () => void,
): Promise<void> {
  const own = await OwnDevices.of(x, xinput);
  const keysyms = await readKeysyms(x);
  const held = new HeldThen(await readModifiers(x));
  /** Control and Alt with a letter, on a real keyboard, whatever program has it: nobody should have to find a button. */
  const follow = (wish: (typeof wishOfKey)[number]) => {
    held
      .read(() => x.ask<{ keyMask: number }>((cb) => x.client.QueryPointer(x.root, cb)).then(({ keyMask }) => keyMask))
      .then((bits) => (bits & CONTROL_AND_ALT) === CONTROL_AND_ALT && wishes.emit(wish, undefined))
      .catch(() => undefined); // The server went; whoever follows it knows.
  };
  let movedPx = 0;
  let sinceMs = 0;
  x.client.on('event', (event) => {
    if (!event.name?.startsWith('XIRaw') || !own.has(event.sourceId)) return;
    if (event.name === 'XIRawMotion') {
      const nowMs = performance.now();
      if (nowMs - sinceMs > MOTION_WINDOW_MS) {
        movedPx = 0;
        sinceMs = nowMs;
      }
      movedPx += Object.values(event.rawValuators ?? {}).reduce((sum, v) => sum + Math.abs(v), 0);
      if (movedPx < MOTION_PX) return;
    }
    const keycode = event.detail ?? 0;
    // A key let go is no sign of anybody beyond its press.
    if (event.name === 'XIRawKeyRelease') return held.onRelease(keycode);
    if (event.name === 'XIRawKeyPress') {
      const wish = wishOfKey[keysyms.get(keycode) ?? 0];
      if (wish) follow(wish);
      held.onPress(keycode);
    }
    onInput();
  });
  selectRawEvents(x, xinput);
}
