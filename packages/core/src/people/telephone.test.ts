import fc from 'fast-check';
import { expect, it } from 'vitest';
import { isSameTelephone, isTelephone } from './telephone.ts';

it('knows a number however it is set in groups, and nothing else', () => {
  for (const number of ['555-0161', '+47 555 01 61', '(0)555/0161', ' 5550161 '])
    expect(isTelephone(number)).toBe(true);
  for (const other of ['', 'MF-201', '0161', '555-0161 ext 4', 'tern-quay-04', '1'.repeat(16), '٥٥٥٠١٦١'])
    expect(isTelephone(other), other).toBe(false);
});

it('is the same line with its country or without, and never another one', () => {
  expect(isSameTelephone('555-0161', '+47 555 0161')).toBe(true);
  expect(isSameTelephone('0555 0161', '+475550161')).toBe(true);
  expect(isSameTelephone('555-0161', '555-0162')).toBe(false);
  expect(isSameTelephone('', '')).toBe(false);
  // Zeros alone are nobody's.
  expect(isSameTelephone('000000', '555-0161')).toBe(false);
});

it('does not depend on who is asked about whom, nor on how it is grouped', () => {
  const digits = fc.stringMatching(/^[1-9]\d{5,11}$/u);
  fc.assert(
    fc.property(digits, digits, fc.nat(5), (a, b, at) => {
      const grouped = `${a.slice(0, at)} ${a.slice(at)}`.trim();
      expect(isSameTelephone(a, grouped)).toBe(true);
      expect(isSameTelephone(grouped, b)).toBe(isSameTelephone(b, a));
    }),
    { numRuns: 200, seed: 20_261_130 },
  );
});
