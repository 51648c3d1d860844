import { safeFileName } from '@porch/client';
import { fileToSend, folderToSend } from '@porch/client/node';
import { HOME_SHOWN, MOST_NAMES, type FilesPort, type NameThere } from '@porch/host';
import { lstat, mkdir, readdir, realpath, stat, statfs } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import { whyNeverSent } from './never-sent.ts';
import { pathWithin } from './path-within.ts';
import { Pieces } from './pieces.ts';

/** The files of whoever this program runs for: what is given goes to the downloads, what is fetched lies under the home. */
export function homeFiles(folders: {
  readonly home: string;
  readonly downloads: string;
  readonly sessionId: string;
  /** Doorstep's own: never sent. */
  readonly own: readonly string[];
  /** This program goes with its computer and comes back with it: what is half there is gone on with. */
  readonly comesBack: () => boolean;
}): FilesPort {
  const { home, downloads, own, sessionId, comesBack } = folders;
  const pieces = new Pieces(downloads, sessionId);
  const whyNever = (path: string) => whyNeverSent(path, home, own);
  const shown = async (path: string) => relative(await realpath(home), path) || HOME_SHOWN;
  return {
    freeBytes: () => freeBytesIn(downloads),
    isThere: (name) =>
      lstat(join(downloads, safeFileName(name))).then(
        () => true,
        () => false,
      ),
    sinkFor: (file, taking) => pieces.sink(file, taking),
    comesBack,
    forgetPieces: () => pieces.forget(),
    async find(wanted, refusedKinds) {
      const path = await pathWithin(home, wanted);
      const about = { path, folder: dirname(path), shownPath: await shown(path), whyNever: await whyNever(path) };
      const found = await stat(path);
      if (found.isFile())
        return { ...about, sizeBytes: found.size, leftOut: 0, isFolder: false, open: () => fileToSend(path) };
      if (!found.isDirectory()) throw new Error('it is not a plain file');
      const open = () => folderToSend(path, { whyNot: whyNever, refusedKinds });
      if (about.whyNever !== undefined) return { ...about, sizeBytes: 0, leftOut: 0, isFolder: true, open };
      const { sizeBytes, count = 0, leftOut, close } = await open();
      await close();
      return { ...about, sizeBytes, count, leftOut, isFolder: true, open };
    },
    async folder(wanted) {
      const path = await pathWithin(home, wanted);
      if (!(await stat(path)).isDirectory()) throw new Error('it is no folder');
      return { path, shownPath: await shown(path), whyNever: await whyNever(path) };
    },
    async names(path) {
      const all = (await readdir(path, { withFileTypes: true })).sort((a, b) => a.name.localeCompare(b.name));
      const names: NameThere[] = [];
      for (const one of all.slice(0, MOST_NAMES)) {
        const found = await lstat(join(path, one.name)).catch(() => undefined); // Gone since it was listed.
        if (!found) continue;
        const isKept = (await whyNever(join(path, one.name))) !== undefined;
        if (isKept) {
          names.push({ name: one.name, kind: 'kept', sizeBytes: 0, changedAtMs: 0 });
          continue;
        }
        const kind = found.isDirectory() ? 'folder' : found.isFile() ? 'file' : 'other';
        names.push({ name: one.name, kind, sizeBytes: found.isFile() ? found.size : 0, changedAtMs: found.mtimeMs });
      }
      return { names, isCut: all.length > MOST_NAMES };
    },
  };
}

async function freeBytesIn(folder: string): Promise<number> {
  await mkdir(folder, { recursive: true });
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize;
}
