import { runs } from '@porch/testkit/seeds';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import { decodeChunk, MAX_UNTAKEN_BYTES } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { OutputStream } from './output-stream.ts';

const step = fc.oneof(
  fc.record({ do: fc.constant('print' as const), bytes: fc.integer({ min: 1, max: 200_000 }) }),
  fc.record({ do: fc.constant('take' as const), share: fc.double({ min: 0, max: 1, noNaN: true }) }),
  fc.record({ do: fc.constant('wait' as const), ms: fc.integer({ min: 1, max: 50 }) }),
  fc.record({ do: fc.constantFrom('rest' as const, 'go on' as const, 'full' as const, 'room' as const) }),
  fc.record({ do: fc.constant('anew' as const) }),
);

it('brings everything in order, as far as it may be on its way, and reads no more than that', () => {
  fc.assert(
    fc.property(fc.array(step, { maxLength: 80 }), (steps) => {
      const time = new VirtualClock();
      const line = { isFull: false, isAllowed: true };
      let [reading, number, id, received, taken] = [true, 0, '', 0, 0];
      let sent: number[] = [];
      const stream = new OutputStream({
        line: {
          messageBytes: 64 * 1024,
          sendPlain: (_seat, plain) => {
            if (line.isFull) return false;
            const chunk = decodeChunk(plain);
            expect(chunk.id).toBe(id);
            expect(chunk.offset).toBe(received);
            received += chunk.bytes.length;
            expect(received - taken).toBeLessThanOrEqual(MAX_UNTAKEN_BYTES + 24 * 1024);
            sent.push(...chunk.bytes.subarray(0, 1), chunk.bytes.length);
            return true;
          },
        },
        ...{ seat: 1, time, newId: () => `${++number}`.padStart(36, '0') },
        may: () => line.isAllowed,
        setReading: (isOn) => (reading = isOn),
        emptied: () => expect(stream.isEmpty).toBe(true),
      });
      id = stream.begin();
      let printed = 0;
      let isResting = false;
      for (const one of steps) {
        // What is not read is not printed either; a piece may come that was read before.
        if (one.do === 'print' && reading) {
          printed += one.bytes;
          stream.push(new Uint8Array(one.bytes).fill(7));
        } else if (one.do === 'take') {
          taken += Math.floor((received - taken) * one.share);
          stream.taken(id, taken);
        } else if (one.do === 'wait') time.advance(one.ms);
        else if (one.do === 'rest' || one.do === 'go on') {
          isResting = one.do === 'rest';
          stream.rest(isResting);
        } else if (one.do === 'full' || one.do === 'room') line.isFull = one.do === 'full';
        else if (one.do === 'anew') {
          stream.drop();
          // What comes while all of it is put together is not lost.
          stream.rest(true);
          stream.push(new Uint8Array(9).fill(7));
          [received, taken, printed, sent] = [0, 0, 5 + 9, []];
          id = stream.begin([new Uint8Array(5).fill(7)]);
          stream.rest(isResting);
        }
        if (isResting) expect(reading).toBe(false);
      }
      // Once nothing is in the way all of it comes.
      line.isFull = false;
      stream.rest(false);
      for (let i = 0; i < 20; i++) {
        stream.flush();
        time.advance(25);
        taken = received;
        stream.taken(id, taken);
      }
      expect(received).toBe(printed);
      expect(reading).toBe(true);
      expect(stream.isEmpty).toBe(true);
      stream.close();
    }),
    runs(),
  );
});

it('sends nothing once it is not allowed, and gathers what comes in small pieces', () => {
  const time = new VirtualClock();
  const sizes: number[] = [];
  let isAllowed = true;
  const stream = new OutputStream({
    line: { messageBytes: 64 * 1024, sendPlain: (_seat, plain) => sizes.push(decodeChunk(plain).bytes.length) > 0 },
    ...{ seat: 1, time, newId: () => 'a'.repeat(36), may: () => isAllowed, setReading: () => undefined },
    emptied: () => undefined,
  });
  stream.begin();
  for (let i = 0; i < 1_000; i++) stream.push(new Uint8Array(2));
  expect(sizes, 'the first at once, the rest together').toEqual([2]);
  time.advance(5);
  expect(sizes).toEqual([2, 1_998]);
  isAllowed = false;
  stream.push(new Uint8Array(50_000));
  time.advance(100);
  expect(sizes).toHaveLength(2);
});
