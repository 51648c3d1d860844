import { z } from 'zod';
import { Moment } from './moment.ts';

/** The largest picture that is put into the records of a session. */
export const MAX_KEPT_SCREENSHOT_BYTES = 8 * 1024 * 1024;

export const KeepScreenshotBody = z.strictObject({
  screenshotId: z.uuid(),
  /** In base64. */
  png: z.base64().max(Math.ceil((MAX_KEPT_SCREENSHOT_BYTES * 4) / 3) + 4),
});
export type KeepScreenshotBody = z.infer<typeof KeepScreenshotBody>;

export const KeptScreenshot = z.strictObject({
  screenshotId: z.uuid(),
  keptAtMs: Moment,
  sizeBytes: z.int(),
  sha256: z.string(),
});
export type KeptScreenshot = z.infer<typeof KeptScreenshot>;
