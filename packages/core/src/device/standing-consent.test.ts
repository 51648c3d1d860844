import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { allPermissions, rulesOf } from '../permission/permission.ts';
import { DAY_MS, isCovered, mayBegin, StandingConsent, type Visit } from './standing-consent.ts';

const consent: StandingConsent = {
  name: 'tern-quay-04',
  allowed: ['view-screen', 'control-input'],
  madeAtMs: 1_000,
  untilMs: 1_000 + 30 * DAY_MS,
  asksEachVisit: true,
};

it('is for at most ninety days, for what may stand, with what that needs', () => {
  expect(StandingConsent.safeParse(consent).success).toBe(true);
  for (const change of [
    { untilMs: 1_000 + 90 * DAY_MS + 1 },
    { untilMs: 1_000 },
    { allowed: [] },
    { allowed: ['control-input'] },
    { allowed: ['view-screen', 'fetch-files'] },
    { allowed: ['keep-device'] },
    { name: ' ' },
  ])
    expect(StandingConsent.safeParse({ ...consent, ...change }).success).toBe(false);
});

it('covers an ask only in time, for the key that knew the secret, welcome where it must be, and for what it holds', () => {
  fc.assert(
    fc.property(
      fc.record({
        provenSignKey: fc.constantFrom(undefined, 'pim', 'rune'),
        isWelcome: fc.boolean(),
      }),
      fc.boolean(),
      fc.uniqueArray(fc.constantFrom(...allPermissions), { minLength: 1, maxLength: 3 }),
      fc.constantFrom(2_000, consent.untilMs - 1, consent.untilMs),
      (visit: Visit, asksEachVisit, permissions, nowMs) => {
        const made = { ...consent, asksEachVisit };
        const isGood =
          visit.provenSignKey === 'pim' &&
          (visit.isWelcome || !asksEachVisit) &&
          permissions.every((p) => p === 'view-screen' || p === 'control-input') &&
          nowMs < consent.untilMs;
        expect(isCovered(made, visit, { permissions, signKey: 'pim' }, nowMs)).toBe(isGood);
        if (isGood) expect(mayBegin(made, visit, nowMs)).toBe(true);
        for (const p of permissions) if (rulesOf(p).isSensitive) expect(isGood).toBe(false);
      },
    ),
    runs(),
  );
});
