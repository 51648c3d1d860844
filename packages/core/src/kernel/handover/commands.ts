import { z } from 'zod';
import { id } from '../../ability/fields.ts';

export const handoverCommands = [
  z.strictObject({
    type: z.literal('requestHandover'),
    handoverId: id,
    toTechnicianId: z.string().max(64),
    remark: z.string().max(2000),
  }),
  z.strictObject({ type: z.literal('takeBackHandover'), handoverId: id }),
] as const;
