import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { defaultBundles, readBundles } from './bundle.ts';
import { allPermissions, askedAtHandover, hasWhatItNeeds, MAX_ASKED_TOGETHER, withNeeds } from './permission.ts';

it('reads what a desk prepares, and its own examples keep its rules', () => {
  const text = defaultBundles.map((b) => `${b.name} = ${b.permissions.join(' + ')}`).join(';');
  expect(readBundles(text)).toEqual(defaultBundles.map(({ own: _, ...bundle }) => bundle));
  expect(readBundles('')).toEqual([]);
});

it('never bundles what is always asked alone, nor one without what it needs', () => {
  expect(() => readBundles('All = view-screen + fetch-files')).toThrow(/always asked alone/);
  expect(() => readBundles('Work = control-input')).toThrow(/needs “view-screen”/);
  expect(() => readBundles('Look = see-screen')).toThrow(/no permission “see-screen”/);
  expect(() => readBundles('view-screen')).toThrow(/is not like/);
});

it('what a colleague asks for at a handover fits into one question, with what each needs', () => {
  fc.assert(
    fc.property(fc.subarray([...allPermissions]), (held) => {
      const whole = withNeeds(held);
      const asked = askedAtHandover(whole);
      expect(asked.length).toBeLessThanOrEqual(MAX_ASKED_TOGETHER);
      for (const permission of asked) expect(hasWhatItNeeds(permission, (needed) => asked.includes(needed))).toBe(true);
      if (!whole.length) expect(asked).toContain('view-screen');
      else if (whole.length <= MAX_ASKED_TOGETHER) expect([...asked].sort()).toEqual([...whole].sort());
    }),
    runs(),
  );
});
