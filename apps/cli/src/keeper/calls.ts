import { InputAct } from '@porch/wire';
import { Permission, SessionCommand } from '@porch/core';
import { z } from 'zod';

/* What a command line says to the process that keeps a session open, over a private Unix socket: one JSON line each way. */
export const Call = z.discriminatedUnion('call', [
  z.strictObject({ call: z.literal('status') }),
  z.strictObject({ call: z.literal('command'), command: SessionCommand }),
  z.strictObject({ call: z.literal('ask'), permissions: z.array(Permission), waitMs: z.number() }),
  z.strictObject({ call: z.literal('giveBack'), permission: Permission }),
  z.strictObject({ call: z.literal('aside'), text: z.string() }),
  z.strictObject({ call: z.literal('acts'), acts: z.array(InputAct).max(5000) }),
  z.strictObject({ call: z.literal('savePicture'), file: z.string(), waitMs: z.number() }),
  z.strictObject({ call: z.literal('giveFile'), path: z.string() }),
  z.strictObject({ call: z.literal('fetchFile'), path: z.string(), folder: z.string() }),
  z.strictObject({ call: z.literal('takeFiles'), folder: z.string() }),
  z.strictObject({ call: z.literal('follow'), afterSeq: z.number() }),
  z.strictObject({ call: z.literal('prove'), words: z.string().max(400), waitMs: z.number() }),
  z.strictObject({ call: z.literal('askWhoIsThere'), waitMs: z.number() }),
  z.strictObject({ call: z.literal('leave') }),
]);
export type Call = z.infer<typeof Call>;

export const Answer = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('done'), value: z.unknown() }),
  z.strictObject({ is: z.literal('refused'), code: z.string(), message: z.string() }),
  /** One of many values of a call that goes on; the last answer is one of the others. */
  z.strictObject({ is: z.literal('more'), value: z.unknown() }),
]);
export type Answer = z.infer<typeof Answer>;
