import type { FileToSend } from '../abilities/files/file-ends.ts';
import { BLOCK_BYTES, blocksFor, headersOf } from './tar-header.ts';

/** Something in a folder that is given or fetched. */
export interface FolderMember {
  /** Below the folder, parts joined by slashes. */
  readonly path: string;
  /** Undefined for a folder in it. */
  readonly file?: { readonly sizeBytes: number; read(offset: number, length: number): Promise<Uint8Array> };
  readonly changedAtMs: number;
}

interface Segment {
  readonly begin: number;
  readonly length: number;
  read(offset: number, length: number): Promise<Uint8Array>;
}

const inMemory = (bytes: Uint8Array): Segment['read'] => {
  return (offset, length) => Promise.resolve(bytes.subarray(offset, offset + length));
};

/** A folder as one stream that can be read from anywhere, the same each time: sizes and times are those of now. */
export function folderSource(name: string, members: readonly FolderMember[]): FileToSend {
  const segments: Segment[] = [];
  let end = 0;
  const add = (length: number, read: Segment['read']) => {
    if (length) segments.push({ begin: end, length, read });
    end += length;
  };
  for (const { path, file, changedAtMs } of members) {
    const sizeBytes = file?.sizeBytes ?? 0;
    const head = headersOf({ path, isFolder: !file, sizeBytes, changedAtMs });
    add(head.length, inMemory(head));
    if (file) add(sizeBytes, (offset, length) => file.read(offset, length));
    add(blocksFor(sizeBytes) - sizeBytes, inMemory(new Uint8Array(BLOCK_BYTES)));
  }
  add(2 * BLOCK_BYTES, inMemory(new Uint8Array(2 * BLOCK_BYTES)));
  return {
    name,
    sizeBytes: end,
    count: members.filter(({ file }) => file).length,
    async read(offset, length) {
      const out = new Uint8Array(length);
      for (let i = segmentAt(segments, offset), done = 0; done < length; i++) {
        const segment = segments[i];
        if (!segment) throw new Error('the folder became shorter');
        const from = offset + done - segment.begin;
        const part = await segment.read(from, Math.min(length - done, segment.length - from));
        out.set(part, done);
        done += part.length;
      }
      return out;
    },
  };
}

/** The last one that begins at or before `offset`, by halves: a folder may have thousands. */
function segmentAt(segments: readonly Segment[], offset: number): number {
  let [low, high] = [0, segments.length - 1];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if ((segments[middle]?.begin ?? 0) <= offset) low = middle;
    else high = middle - 1;
  }
  return low;
}
