import { ProgramAct, ProgramOutcome, RightsBack, rightsLeave } from '@porch/core';
import type { Writable } from 'node:stream';
import { z } from 'zod';
import { writeLine } from '../json-lines.ts';

/*
 * What Doorstep and the part that holds administrator rights say to each other: JSON, a line each, over a pipe or a
 * socket that nobody else has. What is no such line ends the conversation.
 */

/** So much of what is printed goes in one line. */
export const MAX_PRINTED_CHARACTERS = 16_000;

const id = z.uuid();
const key = z.string().regex(/^[0-9a-f]{64}$/);
const signature = z.string().regex(/^[0-9a-f]{128}$/);

export const ToPart = z.discriminatedUnion('do', [
  /** By the desk's leave; a part that was started with a password has begun already. */
  z.strictObject({
    ...{ do: z.literal('begin'), raiseId: id, sessionId: id, holderKey: key, technicianKey: key, proof: signature },
    leave: z.strictObject(rightsLeave),
  }),
  z.strictObject({
    ...{ do: z.literal('run'), runId: id, text: z.string(), values: z.record(z.string(), z.string()) },
    ...{ warrant: signature.optional(), signature: signature.optional() },
  }),
  z.strictObject({
    ...{ do: z.literal('service'), actId: id, act: ProgramAct, target: z.string().min(1).max(160) },
    signature: signature.optional(),
  }),
  /** Packages and services of the computer become what they were. */
  z.strictObject({ do: z.literal('put-back'), orderId: id, back: RightsBack, signature: signature.optional() }),
  /** This account is signed in by itself at the next start, once. */
  z.strictObject({
    ...{ do: z.literal('sign-in'), orderId: id, account: z.string().min(1).max(80) },
    signature: signature.optional(),
  }),
  /** A run, or what is done to a service, is not wanted any longer. */
  z.strictObject({ do: z.literal('stop'), runId: id }),
  /** A sign of life. */
  z.strictObject({ do: z.literal('here') }),
]);
export type ToPart = z.infer<typeof ToPart>;

export const FromPart = z.discriminatedUnion('says', [
  z.strictObject({ says: z.literal('who'), nonce: key }),
  z.strictObject({ says: z.literal('ready') }),
  z.strictObject({ says: z.literal('no'), why: z.string().max(120) }),
  z.strictObject({ says: z.literal('printed'), runId: id, text: z.string() }),
  z.strictObject({ says: z.literal('ended'), runId: id, code: z.int().optional(), mayGoOn: z.boolean() }),
  z.strictObject({ says: z.literal('acted'), actId: id, outcome: ProgramOutcome, about: z.string().max(400) }),
  z.strictObject({ says: z.literal('will-sign-in'), orderId: id }),
  z.strictObject({ says: z.literal('refused'), runId: id, why: z.string().max(120) }),
]);
export type FromPart = z.infer<typeof FromPart>;

/** False while the other side has to read first. */
export const sayLine = (to: Writable, line: ToPart | FromPart): boolean => writeLine(to, line);
