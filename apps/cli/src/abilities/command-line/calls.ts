import { linePlace } from '@porch/core';
import { lineSize, MAX_KEYS_CHARACTERS } from '@porch/wire';
import { z } from 'zod';

const { folder } = linePlace;
export const commandLineCalls = {
  /** Goes on until it is over; whoever asked and goes away ends it. */
  openCommandLine: { lineId: z.uuid(), folder, ...lineSize },
  askLeaveForLine: { lineId: z.uuid(), folder, reason: z.string().max(200).optional() },
  typeOnLine: { text: z.string().max(MAX_KEYS_CHARACTERS) },
  resizeLine: lineSize,
  tookOfLine: { bytes: z.int().min(0) },
  shutLine: {},
} as const;
