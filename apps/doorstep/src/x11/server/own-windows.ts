import type { XConnection } from './connection.ts';

/** Our windows that are above everything, of each connection, the lowest first. */
const byConnection = new WeakMap<XConnection, number[]>();

export const ownWindowsOf = (x: XConnection): readonly number[] => byConnection.get(x) ?? [];

/** This one is the topmost now. */
export function noteRaised(x: XConnection, window: number): void {
  byConnection.set(x, [...ownWindowsOf(x).filter((other) => other !== window), window]);
}
export function noteClosed(x: XConnection, window: number): void {
  byConnection.set(
    x,
    ownWindowsOf(x).filter((other) => other !== window),
  );
}

/** Puts these above the windows of all other programs, and below those of ours that are on top; the last one is highest. */
export function stackBelowOwn(x: XConnection, windows: readonly number[]): void {
  const own = ownWindowsOf(x);
  for (const window of own) x.client.RaiseWindow(window);
  const [lowest] = own;
  for (const window of windows)
    if (lowest === undefined) x.client.RaiseWindow(window);
    else x.client.ConfigureWindow(window, { sibling: lowest, stackMode: BELOW });
}
/** Of ConfigureWindow. */
const BELOW = 1;
