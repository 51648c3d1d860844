import type { XConnection } from './connection.ts';
import { ownWindowsOf } from './own-windows.ts';

/*
 * Some sign-in screens give the keyboard to every window that appears, and no window manager gives it back. What of ours is
 * only looked at never keeps it: it goes back to the window that had it before ours came.
 */

/** InputFocus PointerRoot (X11 protocol): whatever lies under the pointer. */
const POINTER_ROOT = 1;
/** The window of another program that had the keyboard last, of each connection. */
const had = new WeakMap<XConnection, number>();

/** Asked before a window of ours appears. */
export function noteFocus(x: XConnection): void {
  x.client.GetInputFocus((error, { focus } = { focus: 0 }) => {
    if (!error && focus > POINTER_ROOT && !ownWindowsOf(x).includes(focus)) had.set(x, focus);
  });
}
/** It came to a window of ours that wants none. */
export function giveFocusBack(x: XConnection): void {
  if (!x.isGone) x.client.SetInputFocus(had.get(x) ?? POINTER_ROOT, POINTER_ROOT);
}
