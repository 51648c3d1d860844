import { MAX_GROWN_POINTS, Mark, MAX_MARK_TEXT } from '@porch/wire';
import { z } from 'zod';

const place = z.strictObject({ x: z.number().min(0), y: z.number().min(0) });

export const drawingCalls = {
  draw: {
    kind: Mark.shape.kind,
    /** In pixels of the display. */
    places: z.array(place).min(1).max(MAX_GROWN_POINTS),
    text: z.string().max(MAX_MARK_TEXT).optional(),
    display: z.int().min(0).max(127),
    fades: z.boolean(),
  },
  unmark: { which: z.enum(['last', 'all', 'everybodys']) },
} as const;
