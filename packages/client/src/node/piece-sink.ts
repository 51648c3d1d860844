import { rm, type FileHandle } from 'node:fs/promises';
import type { FileSink } from '../abilities/files/file-ends.ts';
import { readExactly, writeAll } from './disk-files.ts';

/** Where what arrives lies until it is whole. */
export interface Piece {
  readonly path: string;
  /** Open for reading and writing. What it has already is what an earlier try left. */
  readonly handle: FileHandle;
  /** It is whole: puts it, or what is in it, where it belongs. */
  put(): Promise<void>;
  /** Nothing is written to it any longer, whatever became of it. */
  onClosed?(): void;
}

/** Writes behind what the piece has already; what was put somewhere or is discarded leaves no piece. */
export async function pieceSink({ path, handle, put, onClosed }: Piece): Promise<FileSink> {
  const { size } = await handle.stat();
  let at = size;
  const close = async () => {
    onClosed?.();
    await handle.close();
  };
  const discard = async () => {
    await close();
    await rm(path, { force: true });
  };
  return {
    begun: { bytes: size, read: (offset, length) => readExactly(handle, offset, length) },
    async write(bytes) {
      await writeAll(handle, bytes, at);
      at += bytes.length;
    },
    async finish() {
      try {
        await handle.sync();
        await put();
      } finally {
        await discard();
      }
    },
    discard,
    leave: close,
  };
}
