import { z } from 'zod';

/** What speaks for or against somebody: a word of a list that grows, with the team or skill it names, or how many. */
export const RoutingReasonView = z.object({
  word: z.string(),
  name: z.string().optional(),
  count: z.int().optional(),
});
