import fc from 'fast-check';
import { bytesToHex } from '@noble/hashes/utils.js';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { appendRow, verifyChain, ZERO_HASH, type LedgerRow } from './chain.ts';

function chainOf(texts: readonly string[], from: readonly LedgerRow[] = []): LedgerRow[] {
  const rows = [...from];
  for (const text of texts)
    rows.push(
      appendRow(
        rows.at(-1)?.hash ?? ZERO_HASH,
        rows.length + 1,
        { v: 1, seq: rows.length + 1, type: 'chatSent' },
        { text },
        new Uint8Array(16).fill(rows.length),
      ),
    );
  return rows;
}
const headOf = (rows: readonly LedgerRow[]) => ({ seq: rows.length, hash: bytesToHex(rows.at(-1)?.hash ?? ZERO_HASH) });
const texts = fc.array(fc.string(), { minLength: 2, maxLength: 12 });

it('notices a changed row, and says which', () => {
  fc.assert(
    fc.property(
      texts,
      fc.nat(),
      fc.constantFrom('header', 'body', 'salt', 'hash', 'bodyHash'),
      fc.nat(),
      (words, where, part, bit) => {
        const rows = chainOf(words);
        const at = where % rows.length;
        const row = rows[at] as LedgerRow;
        const bytes = (row[part as 'header'] as Uint8Array).slice();
        bytes[bit % bytes.length] = (bytes[bit % bytes.length] ?? 0) ^ (1 << (bit % 8));
        rows[at] = { ...row, [part]: bytes };
        expect(verifyChain(rows)).toMatchObject({ isWhole: false, atSeq: at + 1 });
      },
    ),
    runs(),
  );
});

it('notices a chain recomputed behind a change, a cut tail and a fork, by a head kept elsewhere', () => {
  const rows = chainOf(['a', 'b', 'c', 'd']);
  const head = headOf(rows);
  const recomputed = chainOf(['B', 'c', 'd'], rows.slice(0, 1));
  expect(verifyChain(recomputed)).toMatchObject({ isWhole: true });
  expect(verifyChain(recomputed, [head])).toEqual({ isWhole: false, atSeq: 4, fault: 'other history' });
  expect(verifyChain(rows.slice(0, 3), [head])).toEqual({ isWhole: false, atSeq: 4, fault: 'cut short' });
  expect(verifyChain(chainOf(['e'], rows), [head])).toMatchObject({ isWhole: true });
  expect(verifyChain([...rows.slice(0, 1), ...rows.slice(2)])).toMatchObject({
    isWhole: false,
    atSeq: 2,
    fault: 'missing',
  });
});

it('still holds after salts and bodies were erased, and counts them', () => {
  const rows = chainOf(['a', 'b', 'c']).map((row, i) => (i === 1 ? { ...row, salt: undefined, body: undefined } : row));
  expect(verifyChain(rows, [headOf(rows)])).toMatchObject({ isWhole: true, erased: 1 });
});
