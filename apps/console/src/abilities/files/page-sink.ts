import { inBackground, type FileSink } from '@porch/client';
import type { FileTransfer } from '@porch/core';
import { forgetPieces, keepPiece, piecesOf } from './kept-pieces.ts';
import { saveAs } from './save.ts';

/** Kept at once: a row for each chunk would cost the database more than the bytes. */
const ROW_BYTES = 1024 * 1024;

/** Throws when the browser says that it has no room for so much. */
async function needRoom(sizeBytes: number): Promise<void> {
  const { quota, usage } = await navigator.storage.estimate();
  if (quota !== undefined && usage !== undefined && quota - usage < sizeBytes) throw new NoRoom();
}
export class NoRoom extends Error {}

/** Gathers a file in the browser and hands it to the downloads once it is whole; a folder as one file. */
export async function pageSink(file: FileTransfer): Promise<FileSink> {
  const { sha256, sizeBytes, isFolder } = file;
  const had = new Blob(await piecesOf(sha256));
  await needRoom(sizeBytes - had.size);
  let kept = had.size;
  let waiting: Uint8Array<ArrayBuffer>[] = [];
  let waitingBytes = 0;
  const keep = async () => {
    if (!waitingBytes) return;
    const [blob, offset] = [new Blob(waiting), kept];
    kept += waitingBytes;
    waiting = [];
    waitingBytes = 0;
    await keepPiece(sha256, offset, blob);
  };
  return {
    begun: {
      bytes: had.size,
      read: async (offset, length) => new Uint8Array(await had.slice(offset, offset + length).arrayBuffer()),
    },
    async write(bytes) {
      waiting.push(bytes.slice());
      waitingBytes += bytes.length;
      if (waitingBytes >= ROW_BYTES) await keep();
    },
    async finish() {
      await keep();
      const whole = new Blob(await piecesOf(sha256), { type: 'application/octet-stream' });
      if (whole.size !== sizeBytes) throw new Error('the browser lost a part of it');
      const name = file.name ?? 'file';
      saveAs(isFolder ? `${name}.tar` : name, whole, () =>
        inBackground('forgetting what was saved', forgetPieces(sha256)),
      );
    },
    async discard() {
      waiting = [];
      await forgetPieces(sha256);
    },
    leave: keep,
  };
}
