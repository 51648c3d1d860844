import type { XConnection } from './connection.ts';

/** Windows in each other: deeper than this nothing lies that a person works with. */
const MOST_PARENTS = 32;

/** A window, and what it lies in, up to the child of the root window; of one that lies in no root, or too deep, all but that. */
export async function* upwards(
  x: XConnection,
  from: number,
): AsyncGenerator<{ readonly window: number; readonly isTop: boolean }> {
  let window = from;
  for (let step = 0; step < MOST_PARENTS && window > 1 && window !== x.root; step++) {
    const { parent } = await x.ask<{ parent: number }>((cb) => x.client.QueryTree(window, cb));
    yield { window, isTop: parent === x.root };
    window = parent;
  }
}
