import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';
import { hex } from '../sealed/fields.ts';

/** The largest picture that is passed either way, packed. */
export const MAX_SCREENSHOT_BYTES = 24 * 1024 * 1024;

/** The largest picture that anybody unpacks: more than the largest screens have, and no more than a tab can hold. */
export const MAX_SCREENSHOT_PIXELS = 40_000_000;

const PNG_HEAD = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
/** By its first bytes (PNG, second edition, 5.2). */
export const isPng = (bytes: Uint8Array): boolean => PNG_HEAD.every((byte, i) => bytes[i] === byte);

const id = z.uuid();
const sizeBytes = z.int().min(1).max(MAX_SCREENSHOT_BYTES);
const side = z.int().min(1).max(16_384);

/**
 * Technician ↔ the customer's side. The picture comes as R G B rows from the top, packed with raw DEFLATE (RFC 1951); one
 * that is given to the customer goes as PNG. Whoever receives asks for the next pieces with `want`.
 */
export const ScreenshotMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('take'), screenshotId: id, display: z.int().min(0).max(127) }),
  z.strictObject({ type: z.literal('taken'), screenshotId: id, width: side, height: side, sizeBytes }),
  z.strictObject({ type: z.literal('give'), screenshotId: id, sizeBytes, sha256: hex(64) }),
  z.strictObject({ type: z.literal('given'), screenshotId: id }),
  z.strictObject({ type: z.literal('want'), screenshotId: id, offset: z.int().min(0) }),
  z.strictObject({ type: z.literal('refused'), screenshotId: id, why: z.string().max(120) }),
]);
export type ScreenshotMessage = z.infer<typeof ScreenshotMessage>;

export const screenshotChannel = defineChannel({
  name: 'screenshot',
  id: 11,
  line: 'bulk',
  message: ScreenshotMessage,
  needs: { toCustomer: ['take-screenshot'], toDesk: ['take-screenshot'] },
  hasChunks: true,
});
