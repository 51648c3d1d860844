import type { XConnection } from '../server/connection.ts';
import type { WindowKinds } from './window-kinds.ts';

const VIEWABLE = 2;
/** Windows in each other in which a title is looked for. */
const TITLE_DEPTH = 3;

/** Every program with a window that can be seen, by the title of its topmost one, from the top down. */
export async function programsToChoose(
  x: XConnection,
  kinds: WindowKinds,
  programOf: (window: number) => number,
  isNoChoice: (program: number) => boolean,
): Promise<ReadonlyMap<number, string>> {
  const { client, root } = x;
  const found = new Map<number, string>();
  // The last child is on top. A window manager puts a frame around each; the program is inside.
  for (const child of (await kinds.childrenOf(root)).reverse())
    // Of a frame only what it holds counts: the frames of all programs belong to the window manager.
    for (const window of [...(await kinds.childrenOf(child)), child]) {
      const program = programOf(window);
      if (isNoChoice(program) || found.has(program)) continue;
      const how = await x
        .ask<{ mapState: number }>((cb) => client.GetWindowAttributes(window, cb))
        .catch(() => undefined);
      if (how?.mapState !== VIEWABLE) continue;
      const title = await kinds.titleOf(window);
      if (!title || title.startsWith('Zesty Porch')) continue;
      found.set(program, title);
      break;
    }
  return found;
}

/** Every window with such words in its title. */
export async function windowsTitled(x: XConnection, kinds: WindowKinds, words: string): Promise<number[]> {
  const titled = [...(await allTitles(x, kinds))];
  return titled.flatMap(([window, title]) => (title.toLowerCase().includes(words.toLowerCase()) ? [window] : []));
}

/** What windows are called, the frames that a window manager puts around them among them. */
export async function allTitles(x: XConnection, kinds: WindowKinds): Promise<ReadonlyMap<number, string>> {
  const found = new Map<number, string>();
  const visit = async (window: number, depth: number): Promise<void> => {
    const title = await kinds.titleOf(window);
    if (title) found.set(window, title);
    const children = await kinds.childrenOf(window);
    if (depth > 0) for (const child of children) await visit(child, depth - 1);
  };
  await visit(x.root, TITLE_DEPTH);
  return found;
}
