import { z } from 'zod';

export const standingCalls = {
  prove: { words: z.string().max(400), waitMs: z.number() },
  askWhoIsThere: { waitMs: z.number() },
} as const;
