import { expect, it } from 'vitest';
import { ToldOnce } from './told-once.ts';

it('is first once for each time that somebody may, and for who needs no leave until it is forgotten', () => {
  const may = new Set(['pim', 'rune']);
  const told = new ToldOnce({ holds: (_permission, signKey) => may.has(signKey) }, 'see-camera');
  expect(['pim', 'pim', 'rune', 'own', 'own'].map((key) => told.isFirst(key))).toEqual([
    true,
    false,
    true,
    true,
    false,
  ]);
  may.delete('pim');
  told.follow('own');
  expect(['pim', 'rune', 'own'].map((key) => told.isFirst(key))).toEqual([true, false, false]);
  told.follow();
  expect(told.isFirst('own')).toBe(true);
  told.forget();
  expect(told.isFirst('rune')).toBe(true);
});
