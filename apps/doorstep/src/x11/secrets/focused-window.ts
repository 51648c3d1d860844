import type { Rect } from '@porch/screen';
import type { XConnection } from '../server/connection.ts';
import { rectOf } from '../server/rects.ts';
import { upwards } from '../server/upwards.ts';

/** The window that has the keyboard: of which process, where it lies, and which child of the root it is in. */
export interface FocusedWindow {
  readonly pid: number;
  readonly rect: Rect;
  readonly top: number;
  readonly topRect: Rect;
}

const CARDINAL = 6;

/** As the X server says. Undefined: none has it, or one that says nothing of whose it is. */
export async function focusedWindow(x: XConnection): Promise<FocusedWindow | undefined> {
  const { focus } = await x.ask<{ focus: number }>((cb) => x.client.GetInputFocus(cb));
  const pidAtom = await x.atom('_NET_WM_PID');
  let own: { readonly pid: number; readonly window: number } | undefined;
  for await (const { window, isTop } of upwards(x, focus)) {
    // A window that gets the keys in its program's place says nothing of itself; what it lies in does.
    own ??= await pidOf(x, window, pidAtom);
    if (isTop)
      return (
        own && { pid: own.pid, rect: await rectInRoot(x, own.window), top: window, topRect: await rectOfTop(x, window) }
      );
  }
  return undefined;
}

async function pidOf(
  x: XConnection,
  window: number,
  atom: number,
): Promise<{ pid: number; window: number } | undefined> {
  const { data } = await x.ask<{ data: Buffer }>((cb) => x.client.GetProperty(0, window, atom, CARDINAL, 0, 1, cb));
  return data.length >= 4 ? { pid: data.readUInt32LE(0), window } : undefined;
}

async function rectInRoot(x: XConnection, window: number): Promise<Rect> {
  const [{ width, height }, { destX, destY }] = await Promise.all([
    x.ask<{ width: number; height: number }>((cb) => x.client.GetGeometry(window, cb)),
    x.ask<{ destX: number; destY: number }>((cb) => x.client.TranslateCoordinates(window, x.root, 0, 0, cb)),
  ]);
  return { x: destX, y: destY, width, height };
}

const rectOfTop = async (x: XConnection, window: number): Promise<Rect> =>
  rectOf(await x.ask<Parameters<typeof rectOf>[0]>((cb) => x.client.GetGeometry(window, cb)));
