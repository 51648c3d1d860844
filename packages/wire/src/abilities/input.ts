import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** Where on the display: pixels of the generation that the message's header names. */
const at = { x: z.number().min(0).max(65_535), y: z.number().min(0).max(65_535) };

/** A character of any script, or a key of a keyboard by its name in the W3C UI Events `KeyboardEvent.key` table. */
const keyName = z.string().min(1).max(40);

export const InputAct = z.discriminatedUnion('act', [
  z.strictObject({ act: z.literal('move'), ...at }),
  z.strictObject({ act: z.literal('button'), ...at, button: z.enum(['left', 'middle', 'right']), isDown: z.boolean() }),
  z.strictObject({
    act: z.literal('wheel'),
    ...at,
    /** Steps of a wheel; smooth ones are parts of a step. */
    stepsX: z.number().min(-20).max(20),
    stepsY: z.number().min(-20).max(20),
  }),
  z.strictObject({ act: z.literal('key'), key: keyName, isDown: z.boolean() }),
  z.strictObject({ act: z.literal('text'), text: z.string().min(1).max(2000) }),
]);
export type InputAct = z.infer<typeof InputAct>;

/** Technician ↔ Doorstep. */
export const InputMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('openLease') }),
  z.strictObject({ type: z.literal('leaseOpened'), lease: z.string().max(64) }),
  z.strictObject({ type: z.literal('keepLease'), lease: z.string().max(64) }),
  z.strictObject({ type: z.literal('closeLease'), lease: z.string().max(64) }),
  z.strictObject({ type: z.literal('leaseClosed'), lease: z.string().max(64), why: z.string().max(60) }),
  z.strictObject({ type: z.literal('inputPaused'), forMs: z.int().min(0), why: z.string().max(60) }),
  z.strictObject({ type: z.literal('inputDropped'), number: z.int(), why: z.string().max(80) }),
  z.strictObject({
    type: z.literal('input'),
    lease: z.string().max(64),
    /** Exactly the next one within the lease, from 1. */
    number: z.int().min(1),
    /** The newest update the technician had seen when they acted. */
    aimedAtUpdate: z.number().min(0),
    act: InputAct,
  }),
]);
export type InputMessage = z.infer<typeof InputMessage>;

export const inputChannel = defineChannel({
  name: 'input',
  id: 3,
  line: 'interactive',
  message: InputMessage,
  needs: { toCustomer: ['control-input'], toDesk: [] },
  isForDoorstep: true,
});
