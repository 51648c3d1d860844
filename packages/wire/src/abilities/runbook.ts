import { MAX_PARAMETERS, MAX_VALUE_CHARACTERS, RunOutcome } from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** The longest text of an action that is run, as JSON. */
export const MAX_ACTION_TEXT = 45_000;
/** The most of what is printed that goes in one message. */
export const MAX_OUTPUT_PIECE = 16_000;
/** What is printed beyond this is counted, and kept nowhere. */
export const MAX_OUTPUT_CHARACTERS = 4 * 1024 * 1024;

const id = z.uuid();
const count = z
  .int()
  .min(0)
  .max(2 ** 48);

/**
 * Technician ↔ the customer's side. `look` hands over the text of an action that the ledger says was chosen, with values
 * for its parameters; `looked` answers with exactly what would be done. `run` does that. `more` asks for what was printed
 * from there on: it is answered once there is any, or once it is over. Nobody asks, nothing is sent.
 */
export const RunbookMessage = z.discriminatedUnion('type', [
  z.strictObject({
    type: z.literal('look'),
    runId: id,
    text: z.string().max(MAX_ACTION_TEXT),
    values: z
      .record(z.string().max(30), z.string().max(MAX_VALUE_CHARACTERS))
      .refine((values) => Object.keys(values).length <= MAX_PARAMETERS),
    /** Of what needs administrator rights: the technician's, of the action and these values (Ed25519, hex). */
    signature: z
      .string()
      .regex(/^[0-9a-f]{128}$/)
      .optional(),
  }),
  z.strictObject({
    type: z.literal('looked'),
    runId: id,
    /** The program that reads it, and what it is called with. Empty for a file. */
    command: z.array(z.string().max(400)).max(8),
    /** Where it begins, or where the file goes. */
    place: z.string().max(1_000),
    /** A file is there already, and is replaced. */
    isReplacing: z.literal(true).optional(),
    /** What it touches is saved before. */
    isSaved: z.literal(true).optional(),
    /** The device's label asks for the desk's leave first. */
    isCareful: z.literal(true).optional(),
    /** It is run with administrator rights. */
    isRaised: z.literal(true).optional(),
    /** Here not everything that it starts can be ended with it for certain. */
    mayGoOn: z.literal(true).optional(),
  }),
  z.strictObject({ type: z.literal('run'), runId: id }),
  z.strictObject({ type: z.literal('stop'), runId: id }),
  /** Not wanted any longer: neither it nor what it printed. */
  z.strictObject({ type: z.literal('drop'), runId: id }),
  z.strictObject({ type: z.literal('more'), runId: id, from: count }),
  z.strictObject({ type: z.literal('output'), runId: id, from: count, text: z.string().max(MAX_OUTPUT_PIECE) }),
  z.strictObject({
    type: z.literal('ended'),
    runId: id,
    outcome: RunOutcome,
    code: z.int().optional(),
    /** All that it printed, whether it was kept or not. */
    printed: count,
    /** So much of it is kept, and can be had. */
    kept: count,
    mayGoOn: z.literal(true).optional(),
  }),
  z.strictObject({ type: z.literal('refused'), id, why: z.string().max(120) }),
]);
export type RunbookMessage = z.infer<typeof RunbookMessage>;

export const runbookChannel = defineChannel({
  name: 'runbook',
  id: 21,
  line: 'bulk',
  message: RunbookMessage,
  needs: { toCustomer: ['run-runbook'], toDesk: ['run-runbook'] },
});
