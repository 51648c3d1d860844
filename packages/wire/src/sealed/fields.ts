import { z } from 'zod';

export const hex = (digits: number) => z.string().regex(new RegExp(`^[0-9a-f]{${digits}}$`));
