import type { FilesPort } from '@porch/host';
import { realpath, stat } from 'node:fs/promises';
import { dirname, relative } from 'node:path';
import { fileSink, fileToSend, pathWithin } from './disk-files.ts';
import { whyNeverSent } from './never-sent.ts';

/** The files of whoever this program runs for: what is given goes to the downloads, what is fetched lies under the home. */
export function homeFiles(folders: {
  readonly home: string;
  readonly downloads: string;
  /** Doorstep's own: never sent. */
  readonly own: readonly string[];
}): FilesPort {
  const { home, downloads, own } = folders;
  return {
    sinkFor: (name, onArrived) => fileSink(downloads, name, onArrived),
    async find(wanted) {
      const path = await pathWithin(home, wanted);
      const whyNever = await whyNeverSent(path, home, own);
      const { size: sizeBytes } = await stat(path);
      const shownPath = relative(await realpath(home), path);
      return { path, folder: dirname(path), shownPath, sizeBytes, whyNever };
    },
    open: (path) => fileToSend(path),
  };
}
