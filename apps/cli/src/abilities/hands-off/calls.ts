import { z } from 'zod';

export const handsOffCalls = { stepBack: { isAsked: z.boolean() } } as const;
