import type { LedgerWords } from '@porch/words/ledger/shape';

/** A code as it is read on the telephone: digit by digit, a breath after every second one, a longer one in the middle. */
export function readAloud(digits: string, { kernel }: LedgerWords): string {
  const spoken: Readonly<Record<string, string>> = kernel.digits;
  const pairs = digits.match(/\d{1,2}/g) ?? [];
  const words = pairs.map((pair) => [...pair].map((d) => spoken[d] ?? d).join(' '));
  return words.map((pair, i) => pair + (i === words.length - 1 ? '' : i % 2 ? ' … ' : ', ')).join('');
}
