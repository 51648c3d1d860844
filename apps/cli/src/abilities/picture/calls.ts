import { z } from 'zod';

export const pictureCalls = { savePicture: { file: z.string(), waitMs: z.number() } } as const;
