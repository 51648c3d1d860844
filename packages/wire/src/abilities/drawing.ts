import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** Points of a mark lie on the picture as shares of its width and height. */
const share = z.number().min(0).max(1);
export const MAX_MARK_POINTS = 200;
export const Mark = z.strictObject({
  kind: z.enum(['point', 'pen', 'arrow', 'box']),
  points: z
    .array(z.strictObject({ x: share, y: share }))
    .min(1)
    .max(MAX_MARK_POINTS),
});
export type Mark = z.infer<typeof Mark>;

/** Pointing and drawing on the picture, and taking it away again. */
export const DrawingMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('mark'), mark: Mark }),
  z.strictObject({ type: z.literal('unmark'), which: z.enum(['last', 'all']) }),
]);
export type DrawingMessage = z.infer<typeof DrawingMessage>;

export const drawingChannel = defineChannel({
  name: 'drawing',
  id: 9,
  line: 'interactive',
  message: DrawingMessage,
  needs: { toCustomer: ['draw-on-screen'], toDesk: ['draw-on-screen'] },
});
