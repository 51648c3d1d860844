import { allPermissions, newSession, rulesOf, type Participant, type Permission, type SessionState } from '@porch/core';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { agreedUntilMs, agreementOf, isOfferedOn, offeredReturn } from './agreement.ts';

const pim = { id: 'pim', signKey: 'a'.repeat(64), agreeKey: 'b'.repeat(64) } as Participant;
const rune = { ...pim, id: 'rune', signKey: 'c'.repeat(64) };
const NOW = 1_000;
const ALL = { nowMs: NOW, isLimited: false };
/** A session in which Pim may do these things until then. */
const with_ = (allowed: Readonly<Record<string, number>>): SessionState => ({
  ...newSession,
  standings: {
    pim: Object.fromEntries(
      Object.entries(allowed).map(([permission, endsAtMs]) => [
        permission,
        { name: 'allowed', grantNumber: 1, endsAtMs },
      ]),
    ),
  },
});
const permissionsToEnds = fc.dictionary(fc.constantFrom(...allPermissions), fc.integer({ min: 1, max: 5_000 }));

describe('what comes back after a restart', () => {
  it('is offered of what is allowed now, but for what lets the desk come anew or lasts for minutes alone', () => {
    const state = with_({
      'view-screen': 9_000,
      'block-input': 9_000,
      'keep-device': 9_000,
      'raise-rights': 9_000,
      'give-files': 10,
    });
    expect(offeredReturn(state, pim, ALL)).toEqual(['view-screen', 'raise-rights']);
    expect(offeredReturn(state, rune, ALL)).toEqual([]);
    expect(offeredReturn(state, pim, { ...ALL, isLimited: true }), 'who hides something').toEqual(['raise-rights']);
    expect([isOfferedOn('view-screen'), isOfferedOn('raise-rights'), isOfferedOn('restart-computer')]).toEqual([
      true,
      false,
      true,
    ]);
  });

  it('is what stayed ticked, with the end that it has, and nothing without what it needs', () => {
    const state = with_({ 'view-screen': 9_000, 'control-input': 8_000 });
    const offered = offeredReturn(state, pim, ALL);
    expect(agreementOf(state, pim, offered, [true, true]).permissions).toEqual([
      { permission: 'view-screen', endsAtMs: 9_000 },
      { permission: 'control-input', endsAtMs: 8_000 },
    ]);
    expect(agreementOf(state, pim, offered, [false, true]).permissions).toEqual([]);
    expect(agreementOf(state, pim, offered, [false, false])).toMatchObject({ signKey: pim.signKey, permissions: [] });
  });

  it('answers an ask for exactly that, of those keys, once each, and never past its end', () => {
    fc.assert(
      fc.property(
        permissionsToEnds,
        fc.array(fc.boolean(), { minLength: 40, maxLength: 40 }),
        fc.uniqueArray(fc.constantFrom(...allPermissions), { minLength: 1, maxLength: 5 }),
        fc.uniqueArray(fc.constantFrom(...allPermissions), { maxLength: 5 }),
        fc.constantFrom(pim, rune, { ...pim, agreeKey: 'd'.repeat(64) }, undefined),
        (allowed, ticked, permissions, used, from) => {
          const state = with_(allowed);
          const offered = offeredReturn(state, pim, ALL);
          const agreement = agreementOf(state, pim, offered, ticked);
          const agreed = new Map(agreement.permissions.map(({ permission, endsAtMs }) => [permission, endsAtMs]));
          const unused = new Set([...agreed.keys()].filter((one) => !used.includes(one)));
          const ask = { id: 'x', participantId: 'pim', permissions, expiresAtMs: 9_999 };
          const untilMs = agreedUntilMs(agreement, unused, ask, from, NOW);
          const isCovered = from === pim && permissions.every((one) => unused.has(one) && (agreed.get(one) ?? 0) > NOW);
          expect(untilMs !== undefined).toBe(isCovered);
          for (const one of permissions)
            if (untilMs !== undefined) expect(untilMs).toBeLessThanOrEqual(agreed.get(one) ?? 0);
          for (const one of agreed.keys()) {
            expect(rulesOf(one).isForComingBack).toBeUndefined();
            const { needs } = rulesOf(one);
            if (needs) expect(agreed.has(needs as Permission)).toBe(true);
          }
        },
      ),
      runs(),
    );
  });
});
