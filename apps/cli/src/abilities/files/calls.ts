import { z } from 'zod';

const output = { folder: z.string(), ifThere: z.enum(['keep-both', 'replace', 'skip']) };

export const filesCalls = {
  giveFiles: { paths: z.array(z.string()).min(1).max(50) },
  fetchFile: { path: z.string(), ...output },
  takeFiles: output,
  lookAtNames: { path: z.string() },
  setFilePaused: { name: z.string(), isPaused: z.boolean() },
  stopFile: { name: z.string() },
} as const;
export type IfThere = z.infer<typeof output.ifThere>;
