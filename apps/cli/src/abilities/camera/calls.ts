import { z } from 'zod';

/** By how much a picture is turned to stand upright. */
export const Turn = z.enum(['not', 'right', 'over', 'left']);
export type Turn = z.infer<typeof Turn>;

export const cameraCalls = {
  camera: { file: z.string(), hasLight: z.boolean(), turn: Turn },
} as const;
