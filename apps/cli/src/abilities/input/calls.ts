import { InputAct } from '@porch/wire';
import { z } from 'zod';

export const inputCalls = { acts: { acts: z.array(InputAct).max(5000) } } as const;
