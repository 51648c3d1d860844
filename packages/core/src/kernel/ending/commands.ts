import { z } from 'zod';
import { fact } from '../../ability/fields.ts';
import { EndReason, Outcome, TryAnswer } from '../vocabulary.ts';

export const MAX_NOTE_CHARACTERS = 8000;

export const endingCommands = [
  z.strictObject({ type: z.literal('askToTry') }),
  z.strictObject({ type: z.literal('answerTry'), answer: TryAnswer }),
  z.strictObject({ type: z.literal('endSession'), reason: EndReason, why: z.string().max(80), fact }),
  z.strictObject({
    type: z.literal('logOutcome'),
    outcome: Outcome,
    note: z.string().max(MAX_NOTE_CHARACTERS),
    minutes: z.int().min(0).max(10_000),
  }),
] as const;
