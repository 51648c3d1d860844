import { z } from 'zod';

/** What a participant's program is, as the ledger has said from its first version on. What they are is their part. */
export const Role = z.enum(['technician', 'customer-page', 'doorstep']);
export type Role = z.infer<typeof Role>;
