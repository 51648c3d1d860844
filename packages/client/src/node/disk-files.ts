import { open, type FileHandle } from 'node:fs/promises';
import { basename } from 'node:path';
import type { FileToSend } from '../abilities/files/file-ends.ts';

/** Exactly so many bytes, or an error. */
export async function readExactly(handle: FileHandle, offset: number, length: number): Promise<Uint8Array> {
  const bytes = new Uint8Array(length);
  const { bytesRead } = await handle.read(bytes, 0, length, offset);
  if (bytesRead !== length) throw new Error('the file became shorter');
  return bytes;
}

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
    read: (offset, length) => readExactly(handle, offset, length),
    close: () => handle.close(),
  };
}

/** Writes all of it. A disk may take less than it is given. */
export async function writeAll(handle: FileHandle, bytes: Uint8Array, at: number): Promise<void> {
  for (let done = 0; done < bytes.length;) {
    const { bytesWritten } = await handle.write(bytes, done, bytes.length - done, at + done);
    done += bytesWritten;
  }
}
