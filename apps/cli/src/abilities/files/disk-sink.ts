import { type FileSink, safeFileName } from '@porch/client';
import { readExactly, takeFreeName, takeTheName, unpackFolder, writeAll } from '@porch/client/node';
import type { FileTransfer } from '@porch/core';
import { AppError } from '@porch/wire';
import { lstat, mkdir, mkdtemp, open, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { IfThere } from './calls.ts';

const HASH_CHARS = 16;

const exists = (path: string): Promise<boolean> =>
  lstat(path).then(
    () => true,
    () => false,
  );

/**
 * Writes a file or folder of theirs into a folder here. What came of it stays beside it until it is whole, so that the next
 * try goes on from there.
 */
export async function diskSink(
  folder: string,
  file: FileTransfer,
  ifThere: IfThere,
  onDone: (path: string) => void,
): Promise<FileSink | 'skipped'> {
  await mkdir(folder, { recursive: true });
  const name = safeFileName(file.name ?? 'unnamed');
  const wanted = join(folder, name);
  if (ifThere === 'skip' && (await exists(wanted))) return 'skipped';
  const part = join(folder, `.${file.sha256.slice(0, HASH_CHARS)}.porch-part`);
  const isBegun = await exists(part);
  const handle = await open(part, isBegun ? 'r+' : 'wx+', 0o600).catch((cause: unknown) => {
    throw new AppError('INVALID_REQUEST', { path: part }, { cause });
  });
  const { size } = await handle.stat();
  let at = size;
  const finish = async (): Promise<void> => {
    await handle.sync();
    let whole = part;
    if (file.isFolder) {
      whole = await mkdtemp(join(folder, '.porch-folder-'));
      await unpackFolder(handle, file.sizeBytes, whole, []);
    }
    const path = await (ifThere === 'replace' ? takeTheName : takeFreeName)(whole, folder, name);
    onDone(path);
  };
  return {
    begun: { bytes: size, read: (offset, length) => readExactly(handle, offset, length) },
    async write(bytes) {
      await writeAll(handle, bytes, at);
      at += bytes.length;
    },
    finish: async () => {
      try {
        await finish();
      } finally {
        await handle.close();
        await rm(part, { force: true });
      }
    },
    async discard() {
      await handle.close();
      await rm(part, { force: true });
    },
    leave: () => handle.close(),
  };
}
