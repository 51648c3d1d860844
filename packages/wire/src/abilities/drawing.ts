import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** Points of a mark lie on the picture as shares of its width and height. */
const share = z.number().min(0).max(1);
const point = z.strictObject({ x: share, y: share });
/** The points that one message brings. */
export const MAX_MARK_POINTS = 200;
/** The points of a mark that grows. */
export const MAX_GROWN_POINTS = 4_000;
export const MAX_MARK_TEXT = 80;
const points = z.array(point).min(1).max(MAX_MARK_POINTS);

export const Mark = z.strictObject({
  kind: z.enum(['point', 'pen', 'marker', 'arrow', 'box', 'text']),
  points,
  /** What is written there, for a `text` alone. */
  text: z.string().trim().min(1).max(MAX_MARK_TEXT).optional(),
});
export type Mark = z.infer<typeof Mark>;
/** Those that grow while a hand draws. */
export const growingKinds: readonly Mark['kind'][] = ['pen', 'marker'];

/** A mark's number, growing within one sender's start; 0 is one that cannot grow. */
const markId = z.int().min(0).max(0x7fff_ffff);
/** What one person does with their own marks. */
const markMessages = [
  z.strictObject({
    type: z.literal('mark'),
    id: markId.default(0),
    /** The display that it was drawn on, as the picture numbers them. */
    display: z.int().min(0).max(127).default(0),
    mark: Mark,
    /** It goes by itself after a while. */
    fades: z.boolean().default(false),
  }),
  /** A mark that grows goes on with these. */
  z.strictObject({ type: z.literal('more'), id: markId, points }),
  /** Their last one, all of theirs, or everybody's. */
  z.strictObject({ type: z.literal('unmark'), which: z.enum(['last', 'all', 'everybodys']) }),
] as const;
export const MarkMessage = z.discriminatedUnion('type', markMessages);
export type MarkMessage = z.infer<typeof MarkMessage>;

/** Pointing and drawing, technician ↔ the customer's side. */
export const DrawingMessage = z.discriminatedUnion('type', [
  ...markMessages,
  /** So many points of it are on their screen, and in every update of the picture after this one. */
  z.strictObject({ type: z.literal('shown'), id: markId, count: z.int().min(1), afterUpdate: z.number().min(0) }),
  /** What another one did, where marks are not in the picture by themselves. */
  z.strictObject({ type: z.literal('theirs'), seat: z.int().min(0).max(0xffff), what: MarkMessage }),
]);
export type DrawingMessage = z.infer<typeof DrawingMessage>;

export const drawingChannel = defineChannel({
  name: 'drawing',
  id: 9,
  line: 'interactive',
  message: DrawingMessage,
  needs: { toCustomer: ['draw-on-screen'], toDesk: ['view-screen', 'draw-on-screen'] },
});
