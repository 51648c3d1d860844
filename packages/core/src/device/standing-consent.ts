import { z } from 'zod';
import { hasWhatItNeeds, Permission, rulesOf } from '../permission/permission.ts';

/** No standing consent lasts longer, whatever a desk would like: Doorstep holds to it, too. */
export const MAX_STANDING_DAYS = 90;
/** After so many wrong second secrets in a row only somebody at the device can let anybody in. */
export const MAX_SECRET_TRIES = 5;
export const DAY_MS = 86_400_000;

/** Those permissions that a standing consent can hold, in the catalogue's order. */
export const standingPermissions: readonly Permission[] = Permission.options.filter((p) => rulesOf(p).canStand);

/** A customer's leave to reach a device later: what it covers, until when, and whether each visit asks first. */
export const StandingConsent = z
  .strictObject({
    /** What the device is called: by the customer, and by the desk. */
    name: z.string().trim().min(1).max(60),
    allowed: z.array(Permission).min(1).max(standingPermissions.length),
    madeAtMs: z.number(),
    untilMs: z.number(),
    asksEachVisit: z.boolean(),
  })
  .refine((c) => c.untilMs > c.madeAtMs && c.untilMs <= c.madeAtMs + MAX_STANDING_DAYS * DAY_MS, {
    message: `a standing consent lasts at most ${MAX_STANDING_DAYS} days`,
  })
  .refine(
    (c) =>
      c.allowed.every(
        (p) => standingPermissions.includes(p) && hasWhatItNeeds(p, (needed) => c.allowed.includes(needed)),
      ),
    {
      message: 'a standing consent holds only what may stand, each with what it needs',
    },
  );
export type StandingConsent = z.infer<typeof StandingConsent>;

/** Whole days until then, as people count them: begun ones count. */
export const daysLeft = (untilMs: number, nowMs: number): number => Math.max(0, Math.ceil((untilMs - nowMs) / DAY_MS));

/** A visit as far as Doorstep let it come. */
export interface Visit {
  /** Whose second secret was right: by the key that was proven with it. */
  readonly provenSignKey: string | undefined;
  /** Whether somebody at the device said yes to this visit. */
  readonly isWelcome: boolean;
}

/** Whether the visit may begin: the right secret, and a yes where each visit asks. */
export const mayBegin = (consent: StandingConsent, visit: Visit, nowMs: number): boolean =>
  nowMs < consent.untilMs && visit.provenSignKey !== undefined && (visit.isWelcome || !consent.asksEachVisit);

/** Whether an ask is covered, so that nobody at the device has to answer it. */
export const isCovered = (
  consent: StandingConsent,
  visit: Visit,
  ask: { readonly permissions: readonly Permission[]; readonly signKey: string },
  nowMs: number,
): boolean =>
  mayBegin(consent, visit, nowMs) &&
  ask.signKey === visit.provenSignKey &&
  ask.permissions.every((p) => consent.allowed.includes(p));
