/*
 * The wire form of the Internet Printing Protocol (RFC 8010, section 3), as much of it as a printer and its listing need.
 * All numbers are big-endian.
 */

/** Tags that begin a group (RFC 8010, 3.5.1). */
export const groupTags = { operation: 1, job: 2, end: 3, printer: 4 } as const;
/** Tags of values (RFC 8010, 3.5.2). */
export const valueTags = {
  integer: 0x21,
  boolean: 0x22,
  enum: 0x23,
  resolution: 0x32,
  range: 0x33,
  beginCollection: 0x34,
  endCollection: 0x37,
  text: 0x41,
  name: 0x42,
  keyword: 0x44,
  uri: 0x45,
  charset: 0x47,
  language: 0x48,
  mimeType: 0x49,
  memberName: 0x4a,
} as const;
const FIRST_VALUE_TAG = 0x10;
const DOTS_PER_INCH = 3;
const VERSION_2_0 = 0x0200;
const HEAD_BYTES = 8;
/** An integer, a whole resolution or a range takes this many bytes for each of its parts. */
const INTEGER_BYTES = 4;

type Scalar = number | boolean | string;
export interface Collection {
  readonly members: readonly Attribute[];
}
/** Two numbers: of a resolution in dots an inch, across and along; of a range, its ends. */
export type Pair = readonly [number, number];
export interface Attribute {
  readonly name: string;
  readonly tag: number;
  readonly values: readonly (Scalar | Pair | Collection)[];
}

const maker =
  <V extends Scalar | Pair | Collection>(tag: number) =>
  (name: string, ...values: V[]): Attribute => ({ name, tag, values });
export const integer = maker<number>(valueTags.integer);
export const bool = maker<boolean>(valueTags.boolean);
export const enumerated = maker<number>(valueTags.enum);
export const resolution = maker<Pair>(valueTags.resolution);
export const range = maker<Pair>(valueTags.range);
export const collection = maker<Collection>(valueTags.beginCollection);
export const text = maker<string>(valueTags.text);
export const nameOf = maker<string>(valueTags.name);
export const keyword = maker<string>(valueTags.keyword);
export const uri = maker<string>(valueTags.uri);
export const charset = maker<string>(valueTags.charset);
export const language = maker<string>(valueTags.language);
export const mimeType = maker<string>(valueTags.mimeType);

export interface IppGroup {
  readonly tag: number;
  readonly attributes: readonly Attribute[];
}
export interface IppMessage {
  /** Of an answer the status, of a question the operation (RFC 8011, 5.4.15 and appendix B). */
  readonly code: number;
  readonly requestId: number;
  readonly groups: readonly IppGroup[];
  readonly version?: number;
}
export interface ReadMessage {
  readonly version: number;
  readonly code: number;
  readonly requestId: number;
  readonly groups: readonly { readonly tag: number; readonly values: ReadonlyMap<string, readonly Scalar[]> }[];
  /** Where it ends; what comes behind is a document. */
  readonly endsAt: number;
}

/** It ends in the middle of something: more of it may come. */
export class CutShort extends Error {
  constructor() {
    super('the message ends in the middle of something');
  }
}

const lengthAndBytes = (bytes: Buffer): Buffer => {
  const length = Buffer.alloc(2);
  length.writeUInt16BE(bytes.length);
  return Buffer.concat([length, bytes]);
};
const numbers = (...all: number[]): Buffer => {
  const out = Buffer.alloc(all.length * INTEGER_BYTES);
  all.forEach((one, i) => out.writeInt32BE(one, i * INTEGER_BYTES));
  return out;
};

function bytesOf(tag: number, value: Scalar | Pair): Buffer {
  if (typeof value === 'boolean') return Buffer.from([value ? 1 : 0]);
  if (typeof value === 'number') return numbers(value);
  if (typeof value === 'string') return Buffer.from(value);
  return tag === valueTags.resolution
    ? Buffer.concat([numbers(...value), Buffer.from([DOTS_PER_INCH])])
    : numbers(...value);
}

/** Of more values than one only the first has the name (RFC 8010, 3.1.5). */
function encodeAttribute({ name, tag, values }: Attribute): Buffer {
  return Buffer.concat(
    values.flatMap((value, i) => {
      const head = Buffer.concat([Buffer.from([tag]), lengthAndBytes(Buffer.from(i ? '' : name))]);
      if (typeof value === 'object' && 'members' in value)
        return [head, lengthAndBytes(Buffer.alloc(0)), inside(value)];
      return [head, lengthAndBytes(bytesOf(tag, value))];
    }),
  );
}

/** A member's name is a value of its own, and its values have none (RFC 8010, 3.1.6). */
function inside({ members }: Collection): Buffer {
  const ends = Buffer.from([valueTags.endCollection, 0, 0, 0, 0]);
  return Buffer.concat([
    ...members.flatMap((member) => [
      Buffer.from([valueTags.memberName, 0, 0]),
      lengthAndBytes(Buffer.from(member.name)),
      encodeAttribute({ ...member, name: '' }),
    ]),
    ends,
  ]);
}

export function encodeIpp({ version = VERSION_2_0, code, requestId, groups }: IppMessage): Buffer {
  const head = Buffer.alloc(HEAD_BYTES);
  head.writeUInt16BE(version);
  head.writeUInt16BE(code, 2);
  head.writeInt32BE(requestId, 4);
  const parts = groups.flatMap(({ tag, attributes }) => [Buffer.from([tag]), ...attributes.map(encodeAttribute)]);
  return Buffer.concat([head, ...parts, Buffer.from([groupTags.end])]);
}

function scalarOf(tag: number, bytes: Buffer): Scalar | undefined {
  if (tag === valueTags.integer || tag === valueTags.enum)
    return bytes.length === INTEGER_BYTES ? bytes.readInt32BE() : undefined;
  if (tag === valueTags.boolean) return bytes[0] === 1;
  // Octets and characters; what has more than one part nobody here reads.
  return tag >= valueTags.text && tag !== valueTags.memberName ? bytes.toString() : undefined;
}

/** What stands in front of a document. Throws CutShort when more of it has to come, and an Error for what is no message. */
export function decodeIpp(bytes: Buffer): ReadMessage {
  if (bytes.length < HEAD_BYTES) throw new CutShort();
  const groups: { tag: number; values: Map<string, Scalar[]> }[] = [];
  let at = HEAD_BYTES;
  let last = '';
  const take = (length: number): Buffer => {
    if (at + length > bytes.length) throw new CutShort();
    at += length;
    return bytes.subarray(at - length, at);
  };
  const takeCounted = () => take(take(2).readUInt16BE());
  for (;;) {
    const tag = take(1).readUInt8();
    if (tag === groupTags.end) break;
    if (tag < FIRST_VALUE_TAG) {
      groups.push({ tag, values: new Map() });
      continue;
    }
    const group = groups.at(-1);
    if (!group) throw new Error('a value stands before any group');
    const name = takeCounted().toString();
    const value = scalarOf(tag, takeCounted());
    if (name) last = name;
    if (value === undefined) continue;
    const known = group.values.get(last);
    if (known) known.push(value);
    else group.values.set(last, [value]);
  }
  return {
    version: bytes.readUInt16BE(),
    code: bytes.readUInt16BE(2),
    requestId: bytes.readInt32BE(4),
    groups,
    endsAt: at,
  };
}
