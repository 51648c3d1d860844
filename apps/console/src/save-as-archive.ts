import { folderSource } from '@porch/client';
import { saveAs } from './abilities/files/save.ts';

/** Text files as one archive that every system opens (a tar, POSIX.1-1988), into the browser's downloads. */
export async function saveAsArchive(
  folder: string,
  files: readonly { readonly name: string; readonly text: string }[],
): Promise<void> {
  const changedAtMs = Date.now();
  const { read, sizeBytes } = folderSource(
    folder,
    files.map(({ name, text }) => {
      const bytes = new TextEncoder().encode(text);
      const file = {
        sizeBytes: bytes.length,
        read: async (at: number, length: number) => bytes.subarray(at, at + length),
      };
      return { path: name, changedAtMs, file };
    }),
  );
  saveAs(`${folder}.tar`, new Blob([(await read(0, sizeBytes)) as BlobPart], { type: 'application/x-tar' }));
}
