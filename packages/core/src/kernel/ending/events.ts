import { z } from 'zod';
import { fact } from '../../ability/fields.ts';
import { event } from '../event-schema.ts';
import { EndReason, Outcome, TryAnswer } from '../vocabulary.ts';

/** How it ends, and what remains. */
export const endingEvents = [
  event('tryItAsked', {}),
  event('tryItAnswered', { answer: TryAnswer }),
  event('sessionEnded', {
    /** 'nobody': the service ended what no technician had been in for too long. */
    reason: z.enum([...EndReason.options, 'nobody']),
    why: z.string().max(80),
    fact,
  }),
  event('outcomeLogged', {
    outcome: Outcome,
    minutes: z.int().min(0).max(10_000),
    personal: z.strictObject({ note: z.string().max(8000) }).optional(),
  }),
  event('factNoted', { what: z.string().max(60), fact }),
  event('personErased', { seqs: z.array(z.int()), rule: z.string().max(80) }),
  /**
   * What a later release wrote, and this one cannot read: its bytes stay in the chain. Never written by anybody; it stands
   * for such an entry where the ledger is read.
   */
  event('notUnderstood', { what: z.string().max(80) }),
] as const;
