import { z } from 'zod';
import { decodeWords, defineChannel, WORDS_TAG } from '../sealed/channel.ts';
import { decodeChunk, type Chunk } from '../sealed/chunk.ts';

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

/** Throws MESSAGE_INVALID for what is neither words nor a chunk. */
export const decodeFilePart = (plain: Uint8Array): { message: FileMessage } | { chunk: Chunk } =>
  plain[0] === WORDS_TAG ? { message: decodeWords(filesChannel, plain) } : { chunk: decodeChunk(plain) };
