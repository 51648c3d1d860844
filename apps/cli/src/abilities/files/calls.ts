import { z } from 'zod';

export const filesCalls = {
  giveFile: { path: z.string() },
  fetchFile: { path: z.string(), folder: z.string() },
  takeFiles: { folder: z.string() },
} as const;
