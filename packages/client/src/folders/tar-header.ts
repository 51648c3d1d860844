/*
 * A folder travels as one stream in the pax interchange format (POSIX.1-2017, pax, "ustar Interchange Format" and "pax
 * Extended Header"): plain files and folders alone, each with its path, size and time of change, nobody's name and no rights.
 */
export const BLOCK_BYTES = 512;
export const blocksFor = (bytes: number): number => Math.ceil(bytes / BLOCK_BYTES) * BLOCK_BYTES;

const FILE = '0';
const FOLDER = '5';
const EXTENDED = 'x';
/** The most that eleven octal digits say. */
const MOST_OCTAL = 8 ** 11 - 1;
const SIZE_AT = 124;
const SUM_AT = 148;
const SUM_BYTES = 8;
const PLAIN_PATH = /^[\x20-\x7e]{1,100}$/;

export interface TarMember {
  readonly path: string;
  readonly isFolder: boolean;
  readonly sizeBytes: number;
  readonly changedAtMs: number;
}

const text = new TextEncoder();

function header(name: string, sizeBytes: number, changedAtMs: number, type: string): Uint8Array {
  const block = new Uint8Array(BLOCK_BYTES);
  const put = (at: number, value: string) => block.set(text.encode(value), at);
  const octal = (at: number, digits: number, value: number) => put(at, value.toString(8).padStart(digits, '0'));
  put(0, name);
  octal(100, 7, type === FOLDER ? 0o755 : 0o644);
  octal(108, 7, 0);
  octal(116, 7, 0);
  octal(SIZE_AT, 11, sizeBytes);
  octal(136, 11, Math.min(MOST_OCTAL, Math.max(0, Math.floor(changedAtMs / 1_000))));
  put(156, type);
  put(257, 'ustar\u000000');
  octal(SUM_AT, 6, sumOf(block));
  block[SUM_AT + 6] = 0;
  block[SUM_AT + 7] = 0x20;
  return block;
}

/** The sum of a header's bytes, its own field counted as spaces. */
function sumOf(block: Uint8Array): number {
  let sum = SUM_BYTES * 0x20;
  for (let i = 0; i < BLOCK_BYTES; i++) if (i < SUM_AT || i >= SUM_AT + SUM_BYTES) sum += block[i] ?? 0;
  return sum;
}

/** "length key=value\n", the length counting itself. */
function record(key: string, value: string): string {
  const rest = ` ${key}=${value}\n`;
  const bytes = text.encode(rest).length;
  let length = bytes + 1;
  while (String(length).length + bytes !== length) length = String(length).length + bytes;
  return `${length}${rest}`;
}

/** All that stands before a member's bytes: one header, or two where the first has no room for what is to be said. */
export function headersOf({ path, isFolder, sizeBytes, changedAtMs }: TarMember): Uint8Array {
  const name = isFolder ? `${path}/` : path;
  const more = [
    ...(PLAIN_PATH.test(name) ? [] : [record('path', name)]),
    ...(sizeBytes > MOST_OCTAL ? [record('size', String(sizeBytes))] : []),
  ].join('');
  const own = header(more ? 'member' : name, Math.min(sizeBytes, MOST_OCTAL), changedAtMs, isFolder ? FOLDER : FILE);
  if (!more) return own;
  const body = text.encode(more);
  const out = new Uint8Array(2 * BLOCK_BYTES + blocksFor(body.length));
  out.set(header('about', body.length, changedAtMs, EXTENDED));
  out.set(body, BLOCK_BYTES);
  out.set(own, BLOCK_BYTES + blocksFor(body.length));
  return out;
}

export interface ReadHeader {
  readonly type: 'file' | 'folder' | 'extended' | 'end';
  readonly name: string;
  readonly sizeBytes: number;
  readonly changedAtMs: number;
}

/** Throws at what no program of ours writes. */
export function readHeader(block: Uint8Array): ReadHeader {
  if (block.every((byte) => byte === 0)) return { type: 'end', name: '', sizeBytes: 0, changedAtMs: 0 };
  const field = (at: number, bytes: number) => {
    const end = block.indexOf(0, at);
    const part = block.subarray(at, end >= at && end < at + bytes ? end : at + bytes);
    return new TextDecoder('utf-8', { fatal: true }).decode(part).trim();
  };
  const octal = (at: number, bytes: number) => {
    const digits = field(at, bytes);
    if (!/^[0-7]{1,12}$/.test(digits)) throw new Error('the folder is broken on the way: a number is none');
    return parseInt(digits, 8);
  };
  if (field(257, 5) !== 'ustar' || octal(SUM_AT, 8) !== sumOf(block))
    throw new Error('the folder is broken on the way: a header is none');
  const type = ({ [FILE]: 'file', [FOLDER]: 'folder', [EXTENDED]: 'extended' } as const)[
    String.fromCharCode(block[156] ?? 0)
  ];
  if (!type) throw new Error('the folder holds something that is neither file nor folder');
  return { type, name: field(0, 100), sizeBytes: octal(SIZE_AT, 12), changedAtMs: octal(136, 12) * 1_000 };
}

/** Keys and values of an extended header. Throws at what is none. */
export function readRecords(body: Uint8Array): Map<string, string> {
  const found = new Map<string, string>();
  for (let at = 0; at < body.length;) {
    const space = body.indexOf(0x20, at);
    const length = Number(new TextDecoder().decode(body.subarray(at, space)));
    if (space < 0 || !Number.isInteger(length) || length < 5 || at + length > body.length)
      throw new Error('the folder is broken on the way: a record is none');
    const [key = '', ...value] = new TextDecoder('utf-8', { fatal: true })
      .decode(body.subarray(space + 1, at + length - 1))
      .split('=');
    found.set(key, value.join('='));
    at += length;
  }
  return found;
}
