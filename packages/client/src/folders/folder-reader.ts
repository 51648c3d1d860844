import { safeFileName } from '../file-names.ts';
import { BLOCK_BYTES, blocksFor, readHeader, readRecords } from './tar-header.ts';

/** More than these is a trap, or no folder that somebody gives by hand. */
export const MOST_MEMBERS = 20_000;
export const MOST_DEPTH = 40;
const MOST_RECORDS_BYTES = 16 * 1024;

export interface ReadMember {
  /** Below the folder; each part is a name on every system, and none leads out of it. */
  readonly path: readonly string[];
  readonly isFolder: boolean;
  readonly sizeBytes: number;
  readonly changedAtMs: number;
  /** Where its bytes begin in the stream. */
  readonly offset: number;
}

/** Everything in a folder that has arrived, in its order. Throws at what no program of ours sends. */
export async function* readFolder(
  read: (offset: number, length: number) => Promise<Uint8Array>,
  sizeBytes: number,
): AsyncGenerator<ReadMember> {
  const taken = new Map<string, string>();
  let about = new Map<string, string>();
  let members = 0;
  for (let at = 0; at + BLOCK_BYTES <= sizeBytes;) {
    const head = readHeader(await read(at, BLOCK_BYTES));
    at += BLOCK_BYTES;
    if (head.type === 'end') return;
    const bytes = head.type === 'extended' ? head.sizeBytes : Number(about.get('size') ?? head.sizeBytes);
    if (!Number.isSafeInteger(bytes) || bytes < 0 || at + bytes > sizeBytes)
      throw new Error('the folder is broken on the way: it ends too early');
    if (head.type === 'extended') {
      if (bytes > MOST_RECORDS_BYTES) throw new Error('the folder is broken on the way: a record is none');
      about = readRecords(await read(at, bytes));
    } else {
      if (++members > MOST_MEMBERS) throw new Error('the folder holds too many files');
      const path = safePath(about.get('path') ?? head.name, taken);
      about = new Map();
      const isFolder = head.type === 'folder';
      yield { path, isFolder, sizeBytes: isFolder ? 0 : bytes, changedAtMs: head.changedAtMs, offset: at };
    }
    at += blocksFor(bytes);
  }
  throw new Error('the folder is broken on the way: it has no end');
}

/**
 * A path that leads nowhere else, on whatever system. Two that would be one there, by their letters' case or by what was
 * taken from them, are told apart by a number.
 */
function safePath(path: string, taken: Map<string, string>): string[] {
  const parts = path.split('/').filter((part) => part && part !== '.');
  if (!parts.length || parts.length > MOST_DEPTH || parts.includes('..'))
    throw new Error('the folder holds a path that leads out of it');
  const safe: string[] = [];
  for (const [depth, part] of parts.entries()) {
    const original = parts.slice(0, depth + 1).join('/');
    for (let n = 1; ; n++) {
      const name = n === 1 ? safeFileName(part) : numbered(safeFileName(part), n);
      const key = [...safe, name].join('/').toLowerCase();
      const whose = taken.get(key);
      if (whose !== undefined && whose !== original) continue;
      taken.set(key, original);
      safe.push(name);
      break;
    }
  }
  return safe;
}

function numbered(name: string, n: number): string {
  const dot = name.lastIndexOf('.');
  return dot > 0 ? `${name.slice(0, dot)} (${n})${name.slice(dot)}` : `${name} (${n})`;
}
