import { z } from 'zod';

export const soundCalls = { listen: { isOn: z.boolean() } } as const;
