import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import {
  AppError,
  decodeFrame,
  decodeFilePart,
  decodeWords,
  encodeChunk,
  encodeFrame,
  encodeWords,
  errorCatalogue,
  errorWords,
  inputChannel,
  keepKeys,
  makeKeys,
  PairwiseChannel,
  readGrant,
  signGrant,
  startAgainWith,
  type Frame,
} from './index.ts';

const onlyAppError = (work: () => unknown): void => {
  try {
    work();
  } catch (error) {
    expect(error).toBeInstanceOf(AppError);
  }
};
const frame: fc.Arbitrary<Frame> = fc.record({
  channel: fc.constantFrom('screen' as const, 'cursor' as const, 'input' as const, 'file' as const),
  kind: fc.constant(1),
  display: fc.nat(255),
  senderSeat: fc.nat(65_535),
  receiverSeat: fc.nat(65_535),
  epoch: fc.nat(),
  displayGeneration: fc.nat(),
  counter: fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }),
  payload: fc.uint8Array({ maxLength: 64 }),
});

describe('a binary frame', () => {
  it('comes back as it was, also from within a larger buffer', () => {
    fc.assert(
      fc.property(frame, fc.nat(9), (f, offset) => {
        const bytes = encodeFrame(f);
        const larger = new Uint8Array(bytes.length + offset + 3);
        larger.set(bytes, offset);
        expect(decodeFrame(larger.subarray(offset, offset + bytes.length))).toEqual(f);
      }),
      runs(),
    );
  });
  it('gives nothing but a clear error for cut, flipped and random bytes', () => {
    fc.assert(
      fc.property(frame, fc.uint8Array({ maxLength: 80 }), fc.nat(), (f, random, at) => {
        const bytes = encodeFrame(f);
        onlyAppError(() => decodeFrame(random));
        onlyAppError(() => decodeFrame(bytes.subarray(0, at % bytes.length)));
        onlyAppError(() => decodeWords(inputChannel, random));
        onlyAppError(() => decodeFilePart(random));
      }),
      runs(),
    );
  });
});

describe('a pairwise channel', () => {
  const sessionId = '00000000-0000-4000-8000-000000000001';
  function pair(channel: 'input' | 'file' = 'input') {
    const [a, b] = [makeKeys(), makeKeys()];
    const make = (mine: typeof a, mySeat: number, theirs: typeof a, theirSeat: number, c = channel, id = sessionId) =>
      new PairwiseChannel({
        sessionId: id,
        mine,
        mySeat,
        theirAgreeKey: theirs.agreeKey,
        theirStartId: theirs.startId,
        theirSeat,
        channel: c,
      });
    return { a, b, make, one: make(a, 1, b, 2), other: make(b, 2, a, 1) };
  }
  const plain = encodeWords({ type: 'openLease' });

  it('opens what the other sealed, both ways, and a chunk of a file as it was', () => {
    const { one, other } = pair();
    expect(decodeWords(inputChannel, other.open(one.seal(plain)).plain)).toEqual({ type: 'openLease' });
    expect(decodeWords(inputChannel, one.open(other.seal(plain)).plain)).toEqual({ type: 'openLease' });
    const files = pair('file');
    const chunk = { id: sessionId, offset: 2 ** 33, bytes: new Uint8Array([1, 2, 3]) };
    expect(decodeFilePart(files.other.open(files.one.seal(encodeChunk(chunk))).plain)).toEqual({ chunk });
  });
  it('refuses a repeat, an older one, a reflection, and a change of any byte', () => {
    const { one, other } = pair();
    const [first, second] = [one.seal(plain), one.seal(plain)];
    other.open(second);
    for (const bad of [first, second]) expect(() => other.open(bad)).toThrow(AppError);
    expect(() => one.open(one.seal(plain))).toThrow(AppError);
    const third = one.seal(plain, 1, 7);
    for (let at = 0; at < third.length; at++) {
      const changed = third.slice();
      changed[at] = (changed[at] ?? 0) ^ 1;
      expect(() => other.open(changed), `byte ${at}`).toThrow(AppError);
    }
    expect(() => other.open(third)).not.toThrow();
  });
  it('keeps sessions, channels and other keys apart', () => {
    const { a, b, make, one } = pair();
    const sealed = one.seal(plain);
    for (const wrong of [
      make(b, 2, a, 1, 'input', '00000000-0000-4000-8000-000000000002'),
      make(b, 2, a, 1, 'file'),
      make(makeKeys(), 2, a, 1),
      make(b, 2, makeKeys(), 1),
      // The same pairs in a program that started again.
      make(startAgainWith(keepKeys(b)), 2, a, 1),
      make(b, 2, startAgainWith(keepKeys(a)), 1),
    ])
      expect(() => wrong.open(sealed)).toThrow(AppError);
  });
});

it('reads a grant only by its signer, and not one that was changed', () => {
  const [holder, other] = [makeKeys(), makeKeys()];
  const grant = {
    sessionId: '00000000-0000-4000-8000-000000000001',
    permission: 'view-screen' as const,
    technicianSignKey: other.signKey,
    technicianAgreeKey: other.agreeKey,
    number: 1,
    endsAtMs: 5,
  };
  const { statement, signature } = signGrant(holder, grant);
  expect(readGrant(statement, signature, holder.signKey)).toEqual(grant);
  expect(readGrant(statement, signature, other.signKey)).toBeUndefined();
  expect(readGrant(statement.replace('view-screen', 'control-input'), signature, holder.signKey)).toBeUndefined();
  for (const junk of ['', 'zz', signature.slice(2)]) expect(readGrant(statement, junk, holder.signKey)).toBeUndefined();
});

it('has a sentence that says something for every failure', () => {
  expect(Object.keys(errorWords)).toEqual(Object.keys(errorCatalogue));
  for (const said of Object.values(errorWords)) expect(said.length).toBeGreaterThan(12);
});
