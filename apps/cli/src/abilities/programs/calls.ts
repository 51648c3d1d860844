import { ProgramAct, programListNames } from '@porch/core';
import { z } from 'zod';

export const programsCalls = {
  programs: { list: z.enum(programListNames) },
  prepareOnProgram: { act: ProgramAct, target: z.string().max(160) },
  actOnProgram: { actId: z.uuid(), isDone: z.boolean() },
} as const;
