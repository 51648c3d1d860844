/*
 * Damm's check digit (H. M. Damm, "Total anti-symmetrische Quasigruppen", 2004): a quasigroup of order 10 that is
 * totally anti-symmetric, so that every single wrong digit and every swap of two neighbours is noticed.
 */
const quasigroup = [
  [0, 3, 1, 7, 5, 9, 8, 6, 4, 2],
  [7, 0, 9, 2, 1, 5, 4, 8, 6, 3],
  [4, 2, 0, 6, 8, 7, 1, 3, 5, 9],
  [1, 7, 5, 0, 9, 8, 3, 4, 2, 6],
  [6, 1, 2, 3, 0, 4, 5, 9, 7, 8],
  [3, 6, 7, 4, 2, 0, 9, 5, 8, 1],
  [5, 8, 6, 9, 7, 2, 0, 1, 3, 4],
  [8, 9, 4, 5, 3, 6, 2, 0, 1, 7],
  [9, 4, 3, 8, 6, 1, 7, 2, 0, 5],
  [2, 5, 8, 1, 4, 3, 6, 7, 9, 0],
] as const;

function dammOf(digits: string): number {
  let interim = 0;
  for (const digit of digits) interim = quasigroup[interim]?.[Number(digit)] ?? 0;
  return interim;
}

export const CODE_DIGITS = 8;

/** Seven random digits become a whole code. `random(n)` gives an even whole number below n. */
export function makeCodeDigits(random: (below: number) => number): string {
  const body = String(random(10 ** (CODE_DIGITS - 1))).padStart(CODE_DIGITS - 1, '0');
  return body + String(dammOf(body));
}

export type CodeReading =
  | { readonly kind: 'code'; readonly digits: string }
  | { readonly kind: 'incomplete'; readonly digitCount: number }
  | { readonly kind: 'mistyped' }
  | { readonly kind: 'notDigits' };

/** Reads what a person typed: blanks and dashes are theirs to choose, the check digit is not. */
export function readCode(typed: string): CodeReading {
  const digits = typed.replace(/[\s\-–.]/g, '');
  if (!/^\d*$/.test(digits) || digits.length > CODE_DIGITS) return { kind: 'notDigits' };
  if (digits.length < CODE_DIGITS) return { kind: 'incomplete', digitCount: digits.length };
  return dammOf(digits) === 0 ? { kind: 'code', digits } : { kind: 'mistyped' };
}

export const formatCode = (digits: string): string => `${digits.slice(0, 4)} ${digits.slice(4)}`;
