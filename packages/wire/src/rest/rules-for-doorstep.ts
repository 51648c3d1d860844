import { z } from 'zod';

/** What a desk rules of the customer's side, as Doorstep keeps to it. */
export const rulesForDoorstep = {
  controlNeedsComparedWords: z.boolean(),
  /** The longest that a standing consent may last here; 0: none is kept. */
  standingConsentDays: z.number(),
  /** The most that is moved from one clipboard to the other at once; nothing at a desk that knows of no clipboards. */
  maxClipboardBytes: z.number().default(0),
  /** Endings of names: what ends so is moved neither way. */
  refusedFileKinds: z.array(z.string()).default([]),
  /** Labels of devices on which nothing is stopped or changed without the desk's leave for that act, or never. */
  carefulLabels: z.array(z.object({ label: z.string(), isNever: z.boolean() })).default([]),
  /** The most that one safe point may hold; a service that says nothing of it has none. */
  maxSafePointBytes: z.number().default(0),
  /** Names of programs and services that nobody ends or changes from the desk; `*` stands for anything. */
  untouchedPrograms: z.array(z.string()).default([]),
  /** Administrator rights fall back by themselves after so long; a service that says nothing of it has none. */
  rightsMs: z.number().default(0),
  /** The largest file or folder; a service that says nothing of it refuses by itself. */
  maxFileBytes: z.number().default(Number.MAX_SAFE_INTEGER),
  /** Without a sign of the customer for so long, control pauses. */
  awayAfterMs: z.number(),
} as const;
