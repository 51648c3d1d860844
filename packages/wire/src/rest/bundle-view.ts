import { Permission } from '@porch/core';
import { z } from 'zod';

/** Permissions that are asked for together. */
export const BundleView = z.object({
  name: z.string(),
  permissions: z.array(Permission),
  /** Of the product's own: its key among the words, for its name in the reader's language. */
  own: z.enum(['lookAndWork', 'lookWorkAndGive']).optional(),
});
