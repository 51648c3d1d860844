import { link, mkdir, open, readdir, realpath, rm, stat } from 'node:fs/promises';
import { randomBytes } from 'node:crypto';
import { basename, extname, join, resolve, sep } from 'node:path';
import { isAlive } from '../processes.ts';
import { safeFileName, type FileSink, type FileToSend } from '@porch/client';

/** A file of this computer, read piece by piece. Throws when it is no plain file. */
export async function fileToSend(path: string): Promise<FileToSend & { close(): Promise<void> }> {
  const handle = await open(path, 'r');
  const { size: sizeBytes, isFile } = await handle.stat().then((s) => ({ size: s.size, isFile: s.isFile() }));
  if (!isFile) {
    await handle.close();
    throw new Error('it is not a plain file');
  }
  return {
    name: basename(path),
    sizeBytes,
    async read(offset, length) {
      const bytes = new Uint8Array(length);
      const { bytesRead } = await handle.read(bytes, 0, length, offset);
      if (bytesRead !== length) throw new Error('the file became shorter');
      return bytes;
    },
    close: () => handle.close(),
  };
}

/** How pieces of files that have not arrived are called, with the number of the process that takes them. */
const PIECE_ENDING = '.porch-piece';

/** What a Doorstep that was killed left of files that it was taking. */
export async function removeStalePieces(folder: string): Promise<void> {
  const names = await readdir(folder).catch(() => []);
  for (const name of names) {
    const pid = name.match(/^\..*\.(\d+)\.[0-9a-f]{12}\.porch-piece$/)?.[1];
    if (pid !== undefined && !isAlive(Number(pid))) await rm(join(folder, name), { force: true });
  }
}

/** Writes beside the final name and moves there only when everything has arrived. Never overwrites. */
export async function fileSink(
  folder: string,
  name: string,
  onDone: (path: string) => void = () => undefined,
): Promise<FileSink> {
  await mkdir(folder, { recursive: true });
  const safe = safeFileName(name);
  const part = join(folder, `.${safe.slice(0, 80)}.${process.pid}.${randomBytes(6).toString('hex')}${PIECE_ENDING}`);
  const handle = await open(part, 'wx', 0o600);
  return {
    async write(bytes) {
      await handle.write(bytes);
    },
    async finish() {
      await handle.sync();
      await handle.close();
      const path = await takeFreeName(part, folder, safe);
      onDone(path);
    },
    async discard() {
      await handle.close();
      await rm(part, { force: true });
    },
  };
}

/** Gives the piece its name, or the next that is free. Making the name fails when it is taken: nothing is ever overwritten. */
async function takeFreeName(part: string, folder: string, name: string): Promise<string> {
  const ending = extname(name);
  const stem = name.slice(0, name.length - ending.length);
  for (let n = 1; ; n++) {
    const path = join(folder, n === 1 ? name : `${stem} (${n})${ending}`);
    try {
      await link(part, path);
      await rm(part);
      return path;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
  }
}

/** The real path of what a technician asks for, if it lies within `home`. Links that lead out are followed and refused. */
export async function pathWithin(home: string, wanted: string): Promise<string> {
  const root = await realpath(home);
  const path = await realpath(resolve(root, wanted.replace(/^~(?=\/|$)/, '.')));
  if (path !== root && !path.startsWith(root + sep))
    throw new Error('it is outside the home folder of the person here');
  if (!(await stat(path)).isFile()) throw new Error('it is not a plain file');
  return path;
}
