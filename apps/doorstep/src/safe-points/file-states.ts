import { PointRefused } from '@porch/host';
import { createHash } from 'node:crypto';
import { lstat, open, readdir, readlink, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';

const MOST_FILES = 50_000;
const PIECE_BYTES = 1024 * 1024;

/** What was at a place: a file with its hash, a folder, a link, or nothing. Sockets, devices and the like are left alone. */
export const FileState = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('nothing'), path: z.string() }),
  z.strictObject({ kind: z.literal('folder'), path: z.string(), mode: z.number() }),
  z.strictObject({ kind: z.literal('link'), path: z.string(), to: z.string() }),
  z.strictObject({
    ...{ kind: z.literal('file'), path: z.string(), mode: z.number(), mtimeMs: z.number() },
    ...{ sizeBytes: z.number(), sha256: z.string(), copy: z.string() },
  }),
]);
export type FileState = z.infer<typeof FileState>;

/** What stands somewhere now, without its bytes: itself, and everything that is within it. */
export async function* placesIn(
  root: string,
  signal: AbortSignal,
): AsyncGenerator<Exclude<FileState, { kind: 'file' }> | FoundFile> {
  const waiting = [root];
  let seen = 0;
  for (let path = waiting.pop(); path !== undefined; path = waiting.pop()) {
    signal.throwIfAborted();
    if (++seen > MOST_FILES) throw new PointRefused('it holds too many files');
    const found = await lstat(path).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return undefined;
      throw error;
    });
    if (!found) {
      if (path === root) yield { kind: 'nothing', path };
    } else if (found.isSymbolicLink()) yield { kind: 'link', path, to: await readlink(path) };
    else if (found.isDirectory()) {
      yield { kind: 'folder', path, mode: found.mode & 0o7777 };
      for (const name of await readdir(path)) waiting.push(join(path, name));
    } else if (found.isFile())
      yield { kind: 'found', path, mode: found.mode & 0o7777, mtimeMs: found.mtimeMs, sizeBytes: found.size };
  }
}
export interface FoundFile {
  readonly kind: 'found';
  readonly path: string;
  readonly mode: number;
  readonly mtimeMs: number;
  readonly sizeBytes: number;
}

/** The hash of a file, copied to another place on the way if there is one: both are of the very same bytes. */
export async function hashOf(
  path: string,
  signal: AbortSignal,
  copyTo?: string,
): Promise<{ sha256: string; sizeBytes: number }> {
  const from = await open(path, 'r');
  let to: FileHandle | undefined;
  try {
    if (copyTo !== undefined) to = await open(copyTo, 'wx', 0o600);
    const hash = createHash('sha256');
    const piece = Buffer.allocUnsafe(PIECE_BYTES);
    let sizeBytes = 0;
    for (;;) {
      signal.throwIfAborted();
      const { bytesRead } = await from.read(piece, 0, piece.length, null);
      if (bytesRead === 0) break;
      const bytes = piece.subarray(0, bytesRead);
      hash.update(bytes);
      for (let at = 0; to && at < bytesRead;) at += (await to.write(bytes, at)).bytesWritten;
      sizeBytes += bytesRead;
    }
    await to?.datasync();
    return { sha256: hash.digest('hex'), sizeBytes };
  } finally {
    await from.close();
    await to?.close();
  }
}
