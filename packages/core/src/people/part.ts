import { z } from 'zod';
import type { RefusalCode } from '../decision.ts';

/** Whose computer it is about, and who helps. */
export type Side = 'customer' | 'desk';

/** What somebody is in a session. */
export const Part = z.enum(['lead', 'colleague', 'adviser', 'coach', 'recorder', 'page', 'doorstep']);
export type Part = z.infer<typeof Part>;

export const DeskPart = Part.exclude(['page', 'doorstep']);

/** Parts that somebody of the desk is let in as, beside whoever leads. */
export const BesidePart = Part.extract(['colleague', 'adviser', 'coach']);
export type BesidePart = z.infer<typeof BesidePart>;

/** A part that a later release knows: it is there, and may do nothing here. */
export const UNKNOWN_PART = 'unknown';
export type AnyPart = Part | typeof UNKNOWN_PART;

const customers = ['page', 'doorstep'] as const;
/** Who works in the session for the desk. An adviser is from outside, and a coach looks on. */
const working = ['lead', 'colleague'] as const;
const desk = [...working, 'coach'] as const;
const everybody = Part.options;

interface Row {
  readonly parts: readonly Part[];
  /** What anybody else is told. */
  readonly refused: RefusalCode;
}
const only = (parts: readonly Part[], refused: RefusalCode = 'WRONG_ROLE'): Row => ({ parts, refused });

/**
 * Part × action: the only place that knows what each part may do. What is not here, nobody may. A permission comes on top:
 * it is for one key, and signed by the customer's side.
 */
const table = {
  leave: only(everybody),
  'give back or take back': only(everybody),
  'say something': only([...working, ...customers]),
  /** What the desk says among its own, notes, briefs, and who the customer is. */
  "read the desk's own": only(desk),
  'write an aside': only(desk),
  'lead the session': only(['lead'], 'NOT_THE_LEAD'),
  'end the session': only(['lead', ...customers], 'NOT_THE_LEAD'),
  'log the outcome': only(['lead']),
  'ask for a permission': only(working),
  'work with files': only([...working, ...customers]),
  'keep a screenshot': only([...working, 'doorstep']),
  /** Whoever they are: what they see needs a permission, too. */
  'watch a picture': only(everybody),
  'show a picture': only(customers),
  /** With a permission for it: to the customer's side. */
  'show their own screen': only(working),
  'speak for the customer': only(customers),
  'hold the consent': only(customers, 'NOT_THE_CONSENT_HOLDER'),
  'offer a picture of its own': only(['page']),
  'choose what it shows': only(['page'], 'NOT_THE_CONSENT_HOLDER'),
  'speak for the computer': only(['doorstep'], 'NOT_THE_CONSENT_HOLDER'),
  'open the door': only(['doorstep']),
} as const satisfies Record<string, Row>;

export type PartAction = keyof typeof table;
export const allPartActions = Object.keys(table) as PartAction[];

export const partMay = (part: AnyPart, action: PartAction): boolean =>
  (table[action].parts as readonly AnyPart[]).includes(part);
/** Why somebody of this part may not do it; undefined when they may. */
export const whyPartMayNot = (part: AnyPart, action: PartAction): RefusalCode | undefined =>
  partMay(part, action) ? undefined : table[action].refused;
