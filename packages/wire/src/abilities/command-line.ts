import { CommandLineEnd, linePlace } from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** Printed and not yet taken by the technician's terminal: more than this is not read from the program. */
export const MAX_UNTAKEN_BYTES = 512 * 1024;
/** Whoever takes what is printed says so after as much. */
export const SAY_TAKEN_BYTES = 64 * 1024;
/** The most keys that go in one message. */
export const MAX_KEYS_CHARACTERS = 4_000;
/** What is pasted beyond this is a file. */
export const MAX_PASTE_CHARACTERS = 100_000;

const lineId = z.uuid();
/** A terminal that is larger is not filled. */
export const [MAX_LINE_COLUMNS, MAX_LINE_ROWS] = [500, 300];
/** How large a terminal is, in characters. */
export const lineSize = { columns: z.int().min(2).max(MAX_LINE_COLUMNS), rows: z.int().min(1).max(MAX_LINE_ROWS) };

/**
 * Technician ↔ the customer's side, before whatever is large. `open` begins a command line, `keys` are what a terminal sends
 * for what is pressed, `taken` is how much of the present stream its terminal took, `again` asks for all that stands there.
 */
export const CommandLineMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('open'), lineId, folder: linePlace.folder, ...lineSize }),
  z.strictObject({ type: z.literal('keys'), lineId, text: z.string().min(1).max(MAX_KEYS_CHARACTERS) }),
  z.strictObject({ type: z.literal('size'), lineId, ...lineSize }),
  z.strictObject({
    ...{ type: z.literal('taken'), lineId, stream: z.uuid() },
    bytes: z
      .int()
      .min(0)
      .max(2 ** 48),
  }),
  z.strictObject({ type: z.literal('again'), lineId }),
  z.strictObject({ type: z.literal('close'), lineId }),
  z.strictObject({
    ...{ type: z.literal('refused'), id: lineId, why: z.string().max(120) },
    /** The device's label asks for the desk's leave first. */
    isCareful: z.literal(true).optional(),
  }),
  /** What was pressed does not count just now. */
  z.strictObject({ type: z.literal('rests'), lineId, why: z.string().max(120) }),
]);
export type CommandLineMessage = z.infer<typeof CommandLineMessage>;

export const commandLineChannel = defineChannel({
  name: 'command-line',
  id: 22,
  line: 'interactive',
  message: CommandLineMessage,
  needs: { toCustomer: ['use-command-line'], toDesk: ['use-command-line'] },
});

/**
 * What a command line prints, the customer's side → technician: chunks whose id is the stream that these words began last,
 * one behind the other. `anew` begins with all that stands there: what was under way before is void.
 */
export const PrintedMessage = z.discriminatedUnion('type', [
  z.strictObject({
    ...{ type: z.literal('opened'), lineId, stream: z.uuid() },
    ...linePlace,
    /** Here not everything that is begun on it can be ended with it for certain. */
    mayGoOn: z.literal(true).optional(),
  }),
  z.strictObject({ type: z.literal('anew'), lineId, stream: z.uuid() }),
  z.strictObject({
    ...{ type: z.literal('ended'), lineId, how: CommandLineEnd, code: z.int().optional() },
    mayGoOn: z.literal(true).optional(),
  }),
]);
export type PrintedMessage = z.infer<typeof PrintedMessage>;

export const commandLineOutputChannel = defineChannel({
  name: 'command-line-output',
  id: 23,
  line: 'bulk',
  message: PrintedMessage,
  needs: { toCustomer: ['use-command-line'], toDesk: ['use-command-line'] },
  hasChunks: true,
});
