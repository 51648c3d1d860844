import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { askAgainMs, askOpenMs, mayAsk, readAskLimits } from './asking.ts';
import { allPermissions, dependants, rulesOf } from './permission.ts';

const rules = { usual: { openMs: 90, againMs: 10 }, sensitive: { openMs: 180, againMs: 60 } };
const anyPermission = fc.constantFrom(...allPermissions);

it('names what a permission needs before it, so that one pass in order grants all of a bundle', () => {
  for (const [i, permission] of allPermissions.entries()) {
    const { needs } = rulesOf(permission);
    if (needs) expect(allPermissions.indexOf(needs)).toBeLessThan(i);
    for (const other of dependants(permission)) expect(rulesOf(other).needs).toBe(permission);
  }
});

it('wears nobody down: each further no is respected for twice as long, up to a bound', () => {
  fc.assert(
    fc.property(anyPermission, fc.integer({ min: 1, max: 40 }), (permission, noes) => {
      const now = askAgainMs(rules, permission, noes);
      const next = askAgainMs(rules, permission, noes + 1);
      expect(next).toBeGreaterThanOrEqual(now);
      if (noes < 10) expect(next).toBe(2 * now);
      expect(now).toBeGreaterThanOrEqual(rulesOf(permission).isSensitive ? 60 : 10);
    }),
    runs(),
  );
  expect(askOpenMs(rules, ['view-screen', 'control-input'])).toBe(90);
  expect(askOpenMs(rules, ['record-session'])).toBe(180);
});

it('lets a desk forbid by team, by role and for everybody, and keeps trainees looking unless it says otherwise', () => {
  const limits = readAskLimits('Back Office: use-command-line + raise-rights; *: block-input');
  const ilse = { team: 'Back Office', role: 'technician' };
  const noor = { team: 'Pier Systems', role: 'trainee' };
  expect(mayAsk(limits, ilse, 'use-command-line')).toBe(false);
  expect(mayAsk(limits, ilse, 'control-input')).toBe(true);
  expect(mayAsk(limits, ilse, 'block-input')).toBe(false);
  expect(allPermissions.filter((p) => mayAsk(limits, noor, p))).toEqual(['view-screen']);
  expect(mayAsk(readAskLimits('trainee: raise-rights'), noor, 'control-input')).toBe(true);
  expect(() => readAskLimits('Back Office = x')).toThrow(/is not like/);
  expect(() => readAskLimits('Back Office: see-screen')).toThrow(/no permission “see-screen”/);
});
