import type { XEvent } from 'x11';
import type { XConnection } from './connection.ts';
import { ownWindowsOf } from './own-windows.ts';

/*
 * Some sign-in screens give the keyboard to every window that appears, and no window manager gives it back. What of ours is
 * only looked at never keeps it: it goes back to the window that had it before ours came.
 */

/** FocusIn (X11 protocol): it came to this very window, and not only because the pointer lies over it; by no grab. */
const [ANCESTOR, NONLINEAR] = [0, 3];
const [NORMAL, WHILE_GRABBED] = [0, 3];
export const isGivenFocus = ({ name, detail, mode }: XEvent): boolean =>
  name === 'FocusIn' && (detail === ANCESTOR || detail === NONLINEAR) && (mode === NORMAL || mode === WHILE_GRABBED);

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
