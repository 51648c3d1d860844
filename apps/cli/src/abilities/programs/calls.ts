import { ProgramAct, programListNames } from '@porch/core';
import { z } from 'zod';

export const programsCalls = {
  programs: { list: z.enum(programListNames) },
  prepareOnProgram: { act: ProgramAct, target: z.string().max(160) },
  askLeave: { actId: z.uuid(), reason: z.string().max(200).optional() },
  actOnProgram: { actId: z.uuid(), isDone: z.boolean() },
} as const;
