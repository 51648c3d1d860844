import fc from 'fast-check';
import { runs } from '@porch/testkit/seeds';
import { expect, it } from 'vitest';
import { AppError } from '../errors.ts';
import { decodeCheckpoint, encodeCheckpoint } from './checkpoint.ts';
import { commitmentOf, verificationWords, WORD_COUNT, type WordExchange } from './words.ts';

const hex = (bytes: number) =>
  fc.uint8Array({ minLength: bytes, maxLength: bytes }).map((b) => Buffer.from(b).toString('hex'));

it('reads back every checkpoint, and refuses one that is cut', () => {
  const checkpoint = fc.record({
    tableId: fc.nat(0xffffffff),
    table: fc.option(fc.uint8Array({ minLength: 1, maxLength: 200 }), { nil: undefined }),
    echoes: fc.array(fc.record({ seat: fc.nat(65_535), nonce: hex(8) }), { maxLength: 20 }),
  });
  fc.assert(
    fc.property(checkpoint, fc.nat(), (made, cut) => {
      const bytes = encodeCheckpoint(made);
      const read = decodeCheckpoint(bytes);
      expect({ ...read, table: read.table && [...read.table] }).toEqual({
        ...made,
        table: made.table && [...made.table],
      });
      const headBytes = bytes.length - (made.table?.length ?? 0);
      const half = bytes.subarray(0, cut % headBytes);
      expect(() => decodeCheckpoint(half)).toThrow(AppError);
    }),
    runs(),
  );
});

it('makes the same words at both ends, and others when anything of the exchange is another', () => {
  const end = fc.record({ id: fc.uuid(), signKey: hex(32), agreeKey: hex(32) });
  const exchange = fc.record({
    sessionId: fc.uuid(),
    holder: end,
    technician: end,
    holderNonce: hex(32),
    technicianNonce: hex(32),
  });
  const flip = (text: string) => (text.startsWith('0') ? '1' : '0') + text.slice(1);
  const changes: ((e: WordExchange) => WordExchange)[] = [
    (e) => ({ ...e, sessionId: flip(e.sessionId) }),
    (e) => ({ ...e, holder: { ...e.holder, agreeKey: flip(e.holder.agreeKey) } }),
    (e) => ({ ...e, holder: { ...e.holder, signKey: flip(e.holder.signKey) } }),
    (e) => ({ ...e, technician: { ...e.technician, agreeKey: flip(e.technician.agreeKey) } }),
    (e) => ({ ...e, technician: e.holder, holder: e.technician }),
    (e) => ({ ...e, holderNonce: flip(e.holderNonce) }),
    (e) => ({ ...e, technicianNonce: flip(e.technicianNonce) }),
  ];
  fc.assert(
    fc.property(exchange, fc.constantFrom(...changes), (e, change) => {
      const words = verificationWords(e, 'en');
      expect(words).toHaveLength(WORD_COUNT);
      expect(words.every((word) => /^[a-z]+$/.test(word))).toBe(true);
      expect(verificationWords({ ...e }, 'en')).toEqual(words);
      expect(verificationWords(change(e), 'en')).not.toEqual(words);
      // The commitment shows neither nonce nor words, and fits one nonce only.
      const commitment = commitmentOf(e.holder, e.holderNonce);
      expect(commitmentOf(e.holder, flip(e.holderNonce))).not.toBe(commitment);
      expect(commitment).not.toContain(e.holderNonce.slice(0, 16));
    }),
    runs(),
  );
});
