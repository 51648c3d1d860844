import { expect, it } from 'vitest';
import { MISSED_FORGOTTEN_MS, MissedTyping, MOST_MISSED_CHARACTERS } from './missed-typing.ts';

const typeAll = (missed: MissedTyping, keys: readonly string[]) => keys.forEach((key) => missed.key(key));

it('keeps what was typed while nothing arrived, and what was sent since nobody heard of it', () => {
  const missed = new MissedTyping();
  missed.sent('early', 1_000);
  missed.sent('la', 3_000);
  missed.key('x');
  expect(missed.text, 'it arrived').toBe('');
  missed.gone(2_000, 5_000);
  typeAll(missed, ['t', 'e', 'r', 'Shift', 'Enter', 'k', 'Backspace', 'ArrowLeft']);
  missed.composed('ô');
  expect(missed.text).toBe('later\nô');
  missed.back();
  missed.key('y');
  expect(missed.text).toBe('later\nô');
  missed.forget();
  expect(missed.text).toBe('');
});

it('has an end in size and in time', () => {
  const missed = new MissedTyping();
  missed.gone(0, 0);
  for (let i = 0; i < MOST_MISSED_CHARACTERS + 5; i++) missed.key('k');
  expect(missed.text.length).toBe(MOST_MISSED_CHARACTERS);
  missed.forgetOld(MISSED_FORGOTTEN_MS);
  expect(missed.text).not.toBe('');
  missed.forgetOld(MISSED_FORGOTTEN_MS + 1);
  expect(missed.text).toBe('');
});
