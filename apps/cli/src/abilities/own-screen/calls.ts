import { z } from 'zod';

export const ownScreenCalls = {
  showPicture: { file: z.string() },
  stopShowing: {},
} as const;
