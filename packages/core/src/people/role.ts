import { z } from 'zod';

/** What a participant's program is. */
export const Role = z.enum(['technician', 'customer-page', 'doorstep']);
export type Role = z.infer<typeof Role>;
export const isCustomerRole = (role: Role): boolean => role !== 'technician';
