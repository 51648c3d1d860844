import {
  ProgramAct,
  programListNames,
  programLists,
  ProgramOutcome,
  WhyMissing,
  type ProgramList,
  type ProgramRow,
} from '@porch/core';
import { z } from 'zod';
import { defineChannel } from '../sealed/channel.ts';

/** The most rows in one message, and the most letters that they take as JSON. */
export const MAX_ROWS_A_MESSAGE = 500;
export const MAX_ROWS_CHARS = 48 * 1024;
/** The most of what hangs on something that is named; how many there are is said besides. */
export const MAX_HANGING = 50;

const id = z.uuid();
const rowId = z.string().min(1).max(160);
const turn = z
  .int()
  .min(1)
  .max(2 ** 31);
const count = z.int().min(0).max(10_000_000);

/** What a row says is looked at by the list that was asked for: `programLists` in core. */
const Row = z.record(z.string(), z.unknown());

/**
 * Technician ↔ the customer's side. `watch` asks for a list: its rows come, and `turn` says that it is whole. `more` says
 * that the turn was taken; only then, and after a while, the next one is read, and what is other than before comes: rows
 * that are new or changed, and `gone` those that are not there any longer. Nobody asks, nothing is read. `prepare` asks what
 * an act would hit; `act` then does it, by the number that it was prepared under.
 */
export const ProgramsMessage = z.discriminatedUnion('type', [
  z.strictObject({ type: z.literal('watch'), watchId: id, list: z.enum(programListNames) }),
  z.strictObject({ type: z.literal('more'), watchId: id, turn }),
  z.strictObject({ type: z.literal('stop'), watchId: id }),
  z.strictObject({ type: z.literal('rows'), watchId: id, rows: z.array(Row).max(MAX_ROWS_A_MESSAGE) }),
  z.strictObject({ type: z.literal('gone'), watchId: id, ids: z.array(rowId).max(MAX_ROWS_A_MESSAGE) }),
  /** `isHalf`: all rows are there, and the next turn, which comes at once, says more of each. */
  z.strictObject({ type: z.literal('turn'), watchId: id, turn, count, isHalf: z.literal(true).optional() }),
  z.strictObject({ type: z.literal('missing'), watchId: id, why: WhyMissing }),
  z.strictObject({ type: z.literal('prepare'), actId: id, act: ProgramAct, target: rowId }),
  z.strictObject({
    type: z.literal('prepared'),
    actId: id,
    name: z.string().max(120),
    /** Who stops working with it. */
    hanging: z.array(z.string().max(120)).max(MAX_HANGING),
    hangingCount: count,
    /** What starts it again by itself when it is wanted. */
    wakers: z.array(z.string().max(120)).max(MAX_HANGING),
    /** The device's label asks for the desk's leave first. */
    isCareful: z.literal(true).optional(),
  }),
  z.strictObject({
    ...{ type: z.literal('act'), actId: id },
    /** Of a service of the computer, where administrator rights are raised: the technician's (Ed25519, hex). */
    signature: z
      .string()
      .regex(/^[0-9a-f]{128}$/)
      .optional(),
  }),
  z.strictObject({ type: z.literal('drop'), actId: id }),
  z.strictObject({ type: z.literal('acted'), actId: id, outcome: ProgramOutcome, says: z.string().max(400) }),
  /** Of a list that is watched, or of an act, by its number. */
  z.strictObject({ type: z.literal('refused'), id, why: z.string().max(120) }),
]);
export type ProgramsMessage = z.infer<typeof ProgramsMessage>;

/** A row of this list; undefined for what is none, whoever sent it. */
export function readProgramRow<L extends ProgramList>(list: L, value: unknown): ProgramRow<L> | undefined {
  const read = programLists[list].safeParse(value);
  return read.success ? (read.data as ProgramRow<L>) : undefined;
}

export const programsChannel = defineChannel({
  name: 'programs',
  id: 19,
  line: 'bulk',
  message: ProgramsMessage,
  needs: { toCustomer: ['inspect-programs'], toDesk: ['inspect-programs'] },
});
