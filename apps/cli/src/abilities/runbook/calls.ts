import { z } from 'zod';

export const runbookCalls = {
  lookAtAction: { actionId: z.uuid(), title: z.string().max(80), values: z.record(z.string(), z.string()) },
  askLeaveToRun: { runId: z.uuid(), reason: z.string().max(200).optional() },
  runAction: { runId: z.uuid() },
  stopAction: {},
  dropAction: { runId: z.uuid() },
  tickStep: { actionId: z.uuid(), step: z.int().min(0), isDone: z.boolean() },
} as const;
