import { expect, it } from 'vitest';
import { defaultBundles, readBundles } from './bundle.ts';

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
