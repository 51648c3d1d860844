import type { XConnection } from '../server/connection.ts';
import { upwards } from '../server/upwards.ts';

const [NONE, POINTER_ROOT] = [0, 1];

/** The child of the root window that has the keyboard, or the place of the pointer where that decides. */
export async function topOfKeyboard(x: XConnection): Promise<number | { x: number; y: number } | 'root' | 'nobody'> {
  const { client, root } = x;
  const { focus } = await x.ask<{ focus: number }>((cb) => client.GetInputFocus(cb));
  if (focus === NONE) return 'nobody';
  if (focus === root) return 'root';
  if (focus === POINTER_ROOT) {
    const { rootX, rootY } = await x.ask<{ rootX: number; rootY: number }>((cb) => client.QueryPointer(root, cb));
    return { x: rootX, y: rootY };
  }
  try {
    for await (const { window, isTop } of upwards(x, focus)) if (isTop) return window;
  } catch (error) {
    if (x.isGone) throw error;
  }
  // It went meanwhile: what has the keyboard now is asked for the next key.
  return 'root';
}
