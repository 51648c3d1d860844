import { Resting } from '@porch/core';
import { z } from 'zod';

/* What Doorstep and the process of something that rests say to each other, a line each. */

/** The first line that Doorstep says. */
export const RestBegin = z.strictObject({
  what: Resting,
  forMs: z.number().positive(),
  words: z.strictObject({
    title: z.string(),
    line: z.string(),
    atMost: z.string(),
    key: z.string(),
    keyDoes: z.string(),
  }),
});
export type RestBegin = z.infer<typeof RestBegin>;

/** Then: what leaves the picture alone is prepared, and again and again: we are still here. */
export const GO = 'go';
export const TICK = 'tick';
export const TICK_MS = 250;

/** What the process says. */
export const RestSays = z.discriminatedUnion('says', [
  /** Nothing is done yet; this window will have to stay out of the picture. */
  z.strictObject({ says: z.literal('ready'), window: z.int() }),
  z.strictObject({ says: z.literal('in force') }),
  z.strictObject({ says: z.literal('lifted'), by: z.enum(['key', 'stop']) }),
  z.strictObject({ says: z.literal('failed'), why: z.string() }),
]);
export type RestSays = z.infer<typeof RestSays>;
