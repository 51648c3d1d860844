import { z } from 'zod';

const text = (max: number) => z.string().trim().max(max);

/** How a customer's program comes in: by a code or by a link. */
export const JoinBody = z.strictObject({
  code: text(20).optional(),
  secondNumber: text(20).optional(),
  link: text(100).optional(),
  as: z.enum(['page', 'doorstep']),
  /** Chosen at random by the program. Asked again with the same, since no answer came, it comes in once. */
  tryId: z.uuid().optional(),
});
