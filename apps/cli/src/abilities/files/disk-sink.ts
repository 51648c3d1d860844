import { type FileSink, safeFileName } from '@porch/client';
import { pieceSink, takeFreeName, takeTheName, unpackFolder } from '@porch/client/node';
import type { FileTransfer } from '@porch/core';
import { AppError } from '@porch/wire';
import { lstat, mkdir, open } from 'node:fs/promises';
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
  return pieceSink({
    path: part,
    handle,
    put: async () => {
      const whole = file.isFolder ? `${part}.${crypto.randomUUID()}` : part;
      if (file.isFolder) await unpackFolder(handle, file.sizeBytes, whole, []);
      onDone(await (ifThere === 'replace' ? takeTheName : takeFreeName)(whole, folder, name));
    },
  });
}
