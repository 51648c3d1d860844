import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';
import { hex } from '../sealed/fields.ts';

/** The largest picture that is passed either way, packed. */
export const MAX_SCREENSHOT_BYTES = 24 * 1024 * 1024;

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
