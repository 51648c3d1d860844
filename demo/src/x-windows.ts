import { XConnection } from '@porch/doorstep';

/** What comes up on a display is there within this, or never. */
export const READY_MS = 60_000;

/** Resolves when a window whose name fits is on the screen; with its id. */
export const waitForWindow = (display: string, name: RegExp, timeoutMs = READY_MS): Promise<number> =>
  waitOn(display, `a window like ${name}`, (x) => findWindow(x, name), timeoutMs);

/** Looks again and again until there is something. */
export async function waitOn<T>(
  display: string,
  what: string,
  look: (x: XConnection) => Promise<T | undefined>,
  timeoutMs = READY_MS,
): Promise<T> {
  const x = await XConnection.open(display, () => undefined);
  try {
    const giveUpAt = Date.now() + timeoutMs;
    while (Date.now() < giveUpAt) {
      const found = await look(x);
      if (found !== undefined) return found;
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
    throw new Error(`${what} did not come up on ${display}`);
  } finally {
    x.close();
  }
}

/** By the property that Extended Window Manager Hints have for it. */
export async function hasWindowManager(x: XConnection): Promise<true | undefined> {
  const check = await x.atom('_NET_SUPPORTING_WM_CHECK');
  const { data } = await x.ask<{ data: Buffer }>((cb) => x.client.GetProperty(0, x.root, check, 0, 0, 1, cb));
  return data.length ? true : undefined;
}

export async function findWindow(x: XConnection, name: RegExp): Promise<number | undefined> {
  const visit = async (window: number, depth: number): Promise<number | undefined> => {
    const { children } = await x.ask<{ children: number[] }>((cb) => x.client.QueryTree(window, cb));
    for (const child of children) {
      const text = await x
        .ask<{ data: Buffer }>((cb) => x.client.GetProperty(0, child, 39, 0, 0, 200, cb))
        .catch(() => undefined);
      if (text && name.test(text.data.toString('utf8'))) return child;
      const inside = depth > 0 ? await visit(child, depth - 1).catch(() => undefined) : undefined;
      if (inside !== undefined) return inside;
    }
    return undefined;
  };
  return visit(x.root, 1);
}
