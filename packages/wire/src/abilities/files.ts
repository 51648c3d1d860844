import { z } from 'zod';
import { AppError } from '../errors.ts';
import { CHUNK_TAG, decodeWords, defineChannel, WORDS_TAG } from '../sealed/channel.ts';

const id = z.uuid();

/** Either end of a file. Chunks are binary: see `encodeChunk`. */
export const FileMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('wantFrom'), fileId: id, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('have'), fileId: id, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('fetch'), requestId: id, path: z.string().min(1).max(1000) }),
  z.strictObject({ type: z.literal('fetchRefused'), requestId: id, why: z.string().max(120) }),
  z.strictObject({ type: z.literal('fetchStarted'), requestId: id, fileId: id }),
]);
export type FileMessage = z.infer<typeof FileMessage>;

/** Who may give or fetch may say so, and be answered; each file has its own check at the customer's side. */
const either = ['give-files', 'fetch-files'] as const;

export const filesChannel = defineChannel({
  name: 'file',
  id: 4,
  line: 'bulk',
  message: FileMessage,
  needs: { toCustomer: either, toDesk: either },
  hasChunks: true,
});

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

/** Throws MESSAGE_INVALID for what is neither words nor a chunk. */
export function decodeFilePart(plain: Uint8Array): { message: FileMessage } | { chunk: FileChunk } {
  if (plain[0] === WORDS_TAG) return { message: decodeWords(filesChannel, plain) };
  if (plain[0] !== CHUNK_TAG || plain.length < 45) throw new AppError('MESSAGE_INVALID');
  const view = new DataView(plain.buffer, plain.byteOffset, plain.byteLength);
  const fileId = new TextDecoder().decode(plain.subarray(1, 37));
  return { chunk: { fileId, offset: Number(view.getBigUint64(37)), bytes: plain.subarray(45) } };
}
