import { z } from 'zod';

const box = z.strictObject({ x: z.int(), y: z.int(), width: z.int().min(1), height: z.int().min(1) });
export type Box = z.infer<typeof box>;

export const screenshotCalls = {
  screenshot: {
    display: z.int().min(0).max(127),
    blanked: z.array(box).max(100),
    marked: z.array(box).max(100),
    /** Where it goes; at least one of them. */
    file: z.string().optional(),
    keepWithSession: z.boolean(),
    give: z.boolean(),
  },
} as const;
