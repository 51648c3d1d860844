import { z } from 'zod';

export const printsCalls = {
  /** With `waitMs`: once one has arrived that was not listed before, or after that. */
  prints: { waitMs: z.int().min(0).max(3_600_000) },
  /** `which`: its number in the list, the newest is 1, or its id. */
  savePrint: { which: z.string().max(40), file: z.string().optional(), folder: z.string() },
} as const;
