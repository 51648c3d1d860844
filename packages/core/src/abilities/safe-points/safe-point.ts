import { z } from 'zod';

/*
 * A safe point: what a computer was like in the places that somebody named, before something was changed there. Texts are
 * short and lists bounded: a computer may say anything.
 */
export const MAX_POINT_PATHS = 20;
export const MAX_POINT_SERVICES = 20;
const count = z.int().min(0).max(10_000_000);
const bytes = z.number().min(0).max(Number.MAX_SAFE_INTEGER);
const moment = z.number().min(0).max(8.64e15);

export const PointName = z.string().trim().min(1).max(80);

/** What a safe point is to hold. */
export const PointTouches = z.strictObject({
  /** Files and folders of the person's own; one that is not there is remembered as that. */
  paths: z.array(z.string().min(1).max(1_000)).max(MAX_POINT_PATHS),
  /** As the list of services names them. */
  services: z.array(z.string().min(1).max(160)).max(MAX_POINT_SERVICES),
  /** Which packages are installed, and which version of each. */
  hasPackages: z.boolean(),
});
export type PointTouches = z.infer<typeof PointTouches>;

export const SafePoint = z.strictObject({
  id: z.uuid(),
  name: PointName,
  madeAtMs: moment,
  paths: z.array(z.string().max(1_000)).max(MAX_POINT_PATHS),
  files: count,
  sizeBytes: bytes,
  services: count,
  packages: count,
  /** It stays on the computer until then; others go with their session. */
  keptUntilMs: moment.optional(),
  isOfThisSession: z.boolean(),
  /** It was gone back to. */
  isUsed: z.boolean(),
});
export type SafePoint = z.infer<typeof SafePoint>;

/** Something that is other than it was when the point was made. */
export const PointDifference = z.strictObject({
  what: z.enum(['file', 'service', 'package']),
  name: z.string().max(400),
  is: z.enum(['changed', 'gone', 'came']),
  from: z.string().max(120).optional(),
  to: z.string().max(120).optional(),
});
export type PointDifference = z.infer<typeof PointDifference>;

/** What could not be taken back, and why. */
export const LeftAsItIs = z.strictObject({
  what: PointDifference.shape.what,
  name: z.string().max(400),
  why: z.enum(['no-rights', 'broken-off', 'failed']),
});
export type LeftAsItIs = z.infer<typeof LeftAsItIs>;
