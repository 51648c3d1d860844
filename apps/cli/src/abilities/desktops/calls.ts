import { z } from 'zod';

export const desktopsCalls = {
  desktops: {},
  /** By its number in that list. Resolves once they have answered. */
  ringDesktop: { desktop: z.string().min(1).max(80) },
} as const;
