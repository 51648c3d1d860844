import { z } from 'zod';
import { decodeWords, defineChannel, WORDS_TAG } from '../sealed/channel.ts';
import { decodeChunk, type Chunk } from '../sealed/chunk.ts';

const id = z.uuid();
const path = z.string().min(1).max(1_000);
/** Names of one message: with the longest they are well within what a line takes at once. */
export const NAMES_PER_MESSAGE = 50;
/** Files and folders given with one gesture, and asked for in one question. */
export const MOST_TOGETHER = 50;

const Name = z.strictObject({
  name: z.string().max(255),
  /** `kept`: it is there, and is never sent; nothing but its name is told. */
  kind: z.enum(['file', 'folder', 'other', 'kept']),
  sizeBytes: z.int().min(0),
  changedAtMs: z.number(),
});
export type NameTold = z.infer<typeof Name>;

/** Either end of a file. Chunks are binary: see `encodeChunk`. */
export const FileMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('wantFrom'), fileId: id, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('have'), fileId: id, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('fetch'), requestId: id, path }),
  z.strictObject({ type: z.literal('fetchRefused'), requestId: id, why: z.string().max(120) }),
  z.strictObject({ type: z.literal('fetchStarted'), requestId: id, fileId: id }),
  /** These are offered next, and belong together. */
  z.strictObject({ type: z.literal('together'), fileIds: z.array(id).min(2).max(MOST_TOGETHER) }),
  /** What is in this folder: the names alone. */
  z.strictObject({ type: z.literal('look'), requestId: id, path: z.string().max(1_000) }),
  z.strictObject({ type: z.literal('lookRefused'), requestId: id, why: z.string().max(120) }),
  z.strictObject({
    type: z.literal('names'),
    requestId: id,
    path: z.string().max(1_000),
    names: z.array(Name).max(NAMES_PER_MESSAGE),
    /** More messages come, in this order. */
    isLast: z.boolean(),
    /** There is more in it than is told. */
    isCut: z.boolean(),
  }),
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
