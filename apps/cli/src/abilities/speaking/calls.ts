import { z } from 'zod';

export const speakingCalls = { speak: { how: z.enum(['open', 'muted', 'off']) } } as const;
