import { z } from 'zod';
import { who } from '../../ability/fields.ts';
import { event, openName } from '../event-schema.ts';

/** Who may come in beside the lead. */
export const besideEvents = [
  event('beside/letIn', {
    technicianId: who,
    part: openName,
    personal: z.strictObject({ name: z.string() }).optional(),
  }),
  event('beside/sentAway', { technicianId: who }),
] as const;
