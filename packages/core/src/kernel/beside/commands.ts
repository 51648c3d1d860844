import { z } from 'zod';
import { who } from '../../ability/fields.ts';
import { BesidePart } from '../../people/part.ts';

export const besideCommands = [
  /** Somebody of the desk may come in beside the lead. What they may do there they are still to be allowed. */
  z.strictObject({ type: z.literal('beside/letIn'), technicianId: who, part: BesidePart }),
  z.strictObject({ type: z.literal('beside/sendAway'), technicianId: who }),
] as const;
