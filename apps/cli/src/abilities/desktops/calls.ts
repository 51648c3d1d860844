import { z } from 'zod';

export const desktopsCalls = {
  desktops: {},
  /** `who`: an account, or the number of its desktop, as `desktops` lists them. Resolves once they have answered. */
  ringDesktop: { who: z.string().min(1).max(80) },
} as const;
