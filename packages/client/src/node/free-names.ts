import { link, lstat, mkdir, rename, rm } from 'node:fs/promises';
import { extname, join } from 'node:path';

const isTaken = (error: unknown): boolean =>
  ['EEXIST', 'ENOTEMPTY', 'ENOTDIR', 'EISDIR'].includes((error as NodeJS.ErrnoException).code ?? '');

/** "logs.txt", "logs (2).txt" and so on: the first for which `take` does not say that it is taken. */
async function firstFree(
  folder: string,
  name: string,
  isFolder: boolean,
  nth: (n: number) => string,
  take: (path: string) => Promise<void>,
): Promise<string> {
  // What stands behind a dot in the name of a folder is no ending.
  const ending = isFolder ? '' : extname(name);
  const stem = name.slice(0, name.length - ending.length);
  for (let n = 1; ; n++) {
    const path = join(folder, `${stem}${nth(n)}${ending}`);
    try {
      await take(path);
      return path;
    } catch (error) {
      if (!isTaken(error)) throw error;
    }
  }
}

/** Moves a file or folder to a name that nothing has. Making that name fails when it is taken: nothing is ever overwritten. */
async function moveTo(from: string, path: string): Promise<void> {
  if ((await lstat(from)).isDirectory()) {
    // An empty folder of that name is ours, and gives way to what is moved there.
    await mkdir(path);
    return rename(from, path);
  }
  await link(from, path);
  await rm(from);
}

const isFolderAt = async (path: string): Promise<boolean> => (await lstat(path)).isDirectory();

/** Gives what has arrived its name, or the next that is free. Resolves with where it lies. */
export const takeFreeName = async (from: string, folder: string, name: string): Promise<string> =>
  firstFree(
    folder,
    name,
    await isFolderAt(from),
    (n) => (n === 1 ? '' : ` (${n})`),
    (path) => moveTo(from, path),
  );

/** Gives what has arrived this very name; what has it is kept under another. */
export async function takeTheName(from: string, folder: string, name: string): Promise<string> {
  const path = join(folder, name);
  const before = (n: number) => (n === 1 ? ' (before)' : ` (before ${n})`);
  try {
    await firstFree(folder, name, await isFolderAt(path), before, (kept) => moveTo(path, kept));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
  }
  return takeFreeName(from, folder, name);
}
