import { MAX_KEYS_CHARACTERS } from '@porch/wire';
import { z } from 'zod';

const size = { columns: z.int().min(2).max(500), rows: z.int().min(1).max(300) };
export const commandLineCalls = {
  /** Goes on until it is over; whoever asked and goes away ends it. */
  openCommandLine: { lineId: z.uuid(), folder: z.string().max(400), ...size },
  askLeaveForLine: { lineId: z.uuid(), folder: z.string().max(400), reason: z.string().max(200).optional() },
  typeOnLine: { text: z.string().max(8 * MAX_KEYS_CHARACTERS) },
  resizeLine: size,
  tookOfLine: { bytes: z.int().min(0) },
  shutLine: {},
} as const;
