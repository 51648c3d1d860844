import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { formatCode, makeCodeDigits, readCode } from './check-digit.ts';

const code = fc.integer({ min: 0, max: 9_999_999 }).map((n) => makeCodeDigits(() => n));

it('notices every single wrong digit and every swap of two neighbours', () => {
  fc.assert(
    fc.property(code, fc.nat(7), fc.integer({ min: 1, max: 9 }), (digits, at, by) => {
      const wrong = [...digits];
      wrong[at] = String((Number(wrong[at]) + by) % 10);
      expect(readCode(wrong.join('')).kind).toBe('mistyped');
      const swapped = [...digits];
      [swapped[at % 7], swapped[(at % 7) + 1]] = [swapped[(at % 7) + 1] ?? '', swapped[at % 7] ?? ''];
      if (swapped.join('') !== digits) expect(readCode(swapped.join('')).kind).toBe('mistyped');
    }),
    runs(),
  );
});

it('reads a code however its groups are written, and nothing else', () => {
  const digits = makeCodeDigits(() => 4_127_903);
  for (const typed of [digits, formatCode(digits), digits.replace(/(..)/g, '$1-'), ` ${digits} `])
    expect(readCode(typed)).toEqual({ kind: 'code', digits });
  expect(readCode('4127').kind).toBe('incomplete');
  expect(readCode('4127 90xx').kind).toBe('notDigits');
  expect(readCode(`${digits}1`).kind).toBe('notDigits');
});
