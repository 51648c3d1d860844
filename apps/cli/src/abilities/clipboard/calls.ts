import { z } from 'zod';

export const clipboardCalls = {
  copyFrom: { kind: z.enum(['text', 'image']).optional(), file: z.string().optional(), waitMs: z.int().min(0) },
  copyTo: { kind: z.enum(['text', 'image']), text: z.string().optional(), file: z.string().optional() },
} as const;
