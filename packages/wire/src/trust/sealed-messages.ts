import { z } from 'zod';
import { AppError } from '../errors.ts';

const id = z.uuid();
/** Where on the display: pixels of the generation that the message's header names. */
const at = { x: z.number().min(0).max(65_535), y: z.number().min(0).max(65_535) };

/** A character of any script, or a key of a keyboard by its name in the W3C UI Events `KeyboardEvent.key` table. */
const keyName = z.string().min(1).max(40);

export const InputAct = z.discriminatedUnion('act', [
  z.strictObject({ act: z.literal('move'), ...at }),
  z.strictObject({ act: z.literal('button'), ...at, button: z.enum(['left', 'middle', 'right']), isDown: z.boolean() }),
  z.strictObject({
    act: z.literal('wheel'),
    ...at,
    /** Steps of a wheel; smooth ones are parts of a step. */
    stepsX: z.number().min(-20).max(20),
    stepsY: z.number().min(-20).max(20),
  }),
  z.strictObject({ act: z.literal('key'), key: keyName, isDown: z.boolean() }),
  z.strictObject({ act: z.literal('text'), text: z.string().min(1).max(2000) }),
]);
export type InputAct = z.infer<typeof InputAct>;

/** Technician ↔ Doorstep, on the input channel. */
export const InputMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('openLease') }),
  z.strictObject({ type: z.literal('leaseOpened'), lease: z.string().max(64) }),
  z.strictObject({ type: z.literal('keepLease'), lease: z.string().max(64) }),
  z.strictObject({ type: z.literal('closeLease'), lease: z.string().max(64) }),
  z.strictObject({ type: z.literal('leaseClosed'), lease: z.string().max(64), why: z.string().max(60) }),
  z.strictObject({ type: z.literal('inputPaused'), forMs: z.int().min(0), why: z.string().max(60) }),
  z.strictObject({ type: z.literal('inputDropped'), number: z.int(), why: z.string().max(80) }),
  z.strictObject({
    type: z.literal('input'),
    lease: z.string().max(64),
    /** Exactly the next one within the lease, from 1. */
    number: z.int().min(1),
    /** The newest update the technician had seen when they acted. */
    aimedAtUpdate: z.number().min(0),
    act: InputAct,
  }),
]);
export type InputMessage = z.infer<typeof InputMessage>;

/** Either end of a file, on the file channel. Chunks are binary: see `encodeChunk`. */
export const FileMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('wantFrom'), fileId: id, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('have'), fileId: id, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('fetch'), requestId: id, path: z.string().min(1).max(1000) }),
  z.strictObject({ type: z.literal('fetchRefused'), requestId: id, why: z.string().max(120) }),
  z.strictObject({ type: z.literal('fetchStarted'), requestId: id, fileId: id }),
]);
export type FileMessage = z.infer<typeof FileMessage>;

const hex = (digits: number) => z.string().regex(new RegExp(`^[0-9a-f]{${digits}}$`));
/** What the technician prefers, as far as the line allows. */
export const PicturePreference = z.enum(['automatic', 'text-first', 'movement-first', 'least-data']);
export type PicturePreference = z.infer<typeof PicturePreference>;
export const PictureBounds = z.strictObject({
  preference: PicturePreference,
  isGrey: z.boolean(),
  mostFramesPerSecond: z.int().min(1).max(60),
  hidesWallpaper: z.boolean(),
});
export type PictureBounds = z.infer<typeof PictureBounds>;
export const defaultBounds: PictureBounds = {
  preference: 'automatic',
  isGrey: false,
  mostFramesPerSecond: 60,
  hidesWallpaper: false,
};

export const DisplayRow = z.strictObject({
  display: z.int().min(0).max(127),
  name: z.string().max(80),
  x: z.int(),
  y: z.int(),
  width: z.int().min(1),
  height: z.int().min(1),
});
export type DisplayRow = z.infer<typeof DisplayRow>;

/** What limits the picture just now, at the source. */
export const SourceLimit = z.enum(['nothing', 'their-line', 'their-computer', 'chosen']);
export type SourceLimit = z.infer<typeof SourceLimit>;

/** Points of a mark lie on the picture as shares of its width and height. */
const share = z.number().min(0).max(1);
export const MAX_MARK_POINTS = 200;
export const Mark = z.strictObject({
  kind: z.enum(['point', 'pen', 'arrow', 'box']),
  points: z
    .array(z.strictObject({ x: share, y: share }))
    .min(1)
    .max(MAX_MARK_POINTS),
});
export type Mark = z.infer<typeof Mark>;

/** Technician ↔ source, on the look channel: keys, proofs of freshness, wishes. */
export const LookMessage = z.discriminatedUnion('type', [
  /** The key of an epoch, from the source to one who may look. */
  z.strictObject({ type: z.literal('epochKey'), epoch: z.int().min(1), secret: hex(64) }),
  z.strictObject({ type: z.literal('epochTaken'), epoch: z.int().min(1) }),
  z.strictObject({ type: z.literal('challenge'), nonce: hex(16), display: z.int(), needsTable: z.boolean() }),
  z.strictObject({ type: z.literal('needKey') }),
  z.strictObject({ type: z.literal('bounds'), bounds: PictureBounds }),
  z.strictObject({ type: z.literal('displays'), displays: z.array(DisplayRow).max(16) }),
  z.strictObject({
    type: z.literal('sourceNow'),
    limit: SourceLimit,
    lineBytesPerSecond: z.number().min(0),
    capturesPerSecond: z.number().min(0),
    hasWallpaperHidden: z.boolean(),
  }),
  /** The exchange behind the verification words: commit, then reveal. */
  z.strictObject({ type: z.literal('commit'), commitment: hex(64) }),
  z.strictObject({ type: z.literal('nonce'), nonce: hex(64) }),
  z.strictObject({ type: z.literal('reveal'), nonce: hex(64) }),
  z.strictObject({ type: z.literal('askCompare') }),
  /** Pointing and drawing on the picture, and taking it away again. */
  z.strictObject({ type: z.literal('mark'), mark: Mark }),
  z.strictObject({ type: z.literal('unmark'), which: z.enum(['last', 'all']) }),
  /** A technician has come to a device, and asks what is wanted of them. */
  z.strictObject({ type: z.literal('atTheDoor') }),
  /** A visit: the second secret is proven as `second-secret.ts` draws it, or whoever sits there is asked instead. */
  z.strictObject({ type: z.literal('secretWanted'), salt: hex(32), triesLeft: z.int().min(0) }),
  z.strictObject({ type: z.literal('secretBegin'), share: z.string().max(200) }),
  z.strictObject({ type: z.literal('secretShare'), share: z.string().max(200), proof: z.string().max(64) }),
  z.strictObject({ type: z.literal('secretProof'), proof: z.string().max(64) }),
  z.strictObject({ type: z.literal('secretResult'), isRight: z.boolean(), triesLeft: z.int().min(0) }),
  z.strictObject({ type: z.literal('askWhoIsThere') }),
]);
export type LookMessage = z.infer<typeof LookMessage>;

const MESSAGE_TAG = 0;
const CHUNK_TAG = 1;

export function encodeSealedJson(message: InputMessage | FileMessage | LookMessage): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(message));
  const bytes = new Uint8Array(text.length + 1);
  bytes[0] = MESSAGE_TAG;
  bytes.set(text, 1);
  return bytes;
}

export interface FileChunk {
  readonly fileId: string;
  readonly offset: number;
  readonly bytes: Uint8Array;
}

/** Tag, 36 characters of the file's id, offset as a 64-bit number, then the bytes. */
export function encodeChunk({ fileId, offset, bytes }: FileChunk): Uint8Array {
  const out = new Uint8Array(45 + bytes.length);
  out[0] = CHUNK_TAG;
  out.set(new TextEncoder().encode(fileId), 1);
  new DataView(out.buffer).setBigUint64(37, BigInt(offset));
  out.set(bytes, 45);
  return out;
}

function parseJson<T>(schema: z.ZodType<T>, plain: Uint8Array): T {
  try {
    return schema.parse(JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(plain.subarray(1))));
  } catch (cause) {
    throw new AppError('MESSAGE_INVALID', {}, { cause });
  }
}

export function decodeInputMessage(plain: Uint8Array): InputMessage {
  if (plain[0] !== MESSAGE_TAG) throw new AppError('MESSAGE_INVALID');
  return parseJson(InputMessage, plain);
}

export function decodeLookMessage(plain: Uint8Array): LookMessage {
  if (plain[0] !== MESSAGE_TAG) throw new AppError('MESSAGE_INVALID');
  return parseJson(LookMessage, plain);
}

export function decodeFilePart(plain: Uint8Array): { message: FileMessage } | { chunk: FileChunk } {
  if (plain[0] === MESSAGE_TAG) return { message: parseJson(FileMessage, plain) };
  if (plain[0] !== CHUNK_TAG || plain.length < 45) throw new AppError('MESSAGE_INVALID');
  const view = new DataView(plain.buffer, plain.byteOffset, plain.byteLength);
  const fileId = new TextDecoder().decode(plain.subarray(1, 37));
  return { chunk: { fileId, offset: Number(view.getBigUint64(37)), bytes: plain.subarray(45) } };
}
