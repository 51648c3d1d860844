import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** The most that any desk can allow to be moved at once; what a desk allows is its `max-clipboard-mb`. */
export const MAX_CLIP_BYTES = 256 * 1024 * 1024;
/** So many files are named of one copy. */
export const MAX_CLIP_FILES = 100;
/** Text up to this size comes by itself when the technician copied it; more is a choice. */
export const SMALL_CLIP_BYTES = 256 * 1024;

const id = z.uuid();
const sizeBytes = z.int().min(0).max(MAX_CLIP_BYTES);
const name = z.string().min(1).max(255);
/** What moves as bytes: UTF-8 text, or a PNG. */
export const ClipBytesKind = z.enum(['text', 'image']);
export type ClipBytesKind = z.infer<typeof ClipBytesKind>;

/** Something was copied there: what could be had of it, and nothing of it yet. Files are fetched as files, by their path. */
export const ClipOffer = z.strictObject({
  copyId: id,
  parts: z.array(z.strictObject({ kind: ClipBytesKind, sizeBytes })).max(2),
  files: z
    .array(z.strictObject({ path: z.string().min(1).max(4096), name, sizeBytes: z.number().int().min(0) }))
    .max(MAX_CLIP_FILES),
});
export type ClipOffer = z.infer<typeof ClipOffer>;

/**
 * Technician ↔ the customer's side. `copied` says what could be had; `want` asks for the next pieces of it, as whoever
 * receives does in both directions. `put` brings something onto their clipboard, `putFiles` files that have arrived.
 */
export const ClipboardMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('copied'), offer: ClipOffer }),
  z.strictObject({ type: z.literal('want'), copyId: id, kind: ClipBytesKind, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('put'), copyId: id, kind: ClipBytesKind, sizeBytes }),
  z.strictObject({ type: z.literal('putFiles'), copyId: id, fileIds: z.array(id).min(1).max(MAX_CLIP_FILES) }),
  z.strictObject({ type: z.literal('placed'), copyId: id }),
  z.strictObject({ type: z.literal('stopped'), copyId: id }),
  z.strictObject({ type: z.literal('refused'), copyId: id, why: z.string().max(120) }),
]);
export type ClipboardMessage = z.infer<typeof ClipboardMessage>;

export const clipboardChannel = defineChannel({
  name: 'clipboard',
  id: 12,
  line: 'bulk',
  message: ClipboardMessage,
  needs: { toCustomer: ['give-clipboard', 'read-clipboard'], toDesk: ['give-clipboard', 'read-clipboard'] },
  isForDoorstep: true,
  hasChunks: true,
});
