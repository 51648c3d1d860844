import { runs } from '@porch/testkit/seeds';
import { VirtualClock } from '@porch/testkit/virtual-clock';
import type { Chunk } from '@porch/wire';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { PieceReceiver, PieceSender } from './pieces.ts';

it('brings everything over whole, whatever the line loses, repeats and holds up', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 400_000 }),
      fc.infiniteStream(fc.constantFrom('through', 'through', 'through', 'lost', 'twice', 'full')),
      (size, fates) => {
        const bytes = Uint8Array.from({ length: size }, (_, i) => (i * 7) & 255);
        const wire: Chunk[] = [];
        let whole: Uint8Array | undefined;
        const send = (chunk: Chunk): boolean => {
          const fate = fates.next().value as string;
          if (fate === 'full') return false;
          if (fate !== 'lost') wire.push(chunk);
          if (fate === 'twice') wire.push(chunk);
          return true;
        };
        const clock = new VirtualClock();
        const sender = new PieceSender(bytes, 'id', clock);
        const receiver = new PieceReceiver(
          size,
          (offset) => sender.sendFrom(offset, send),
          (all) => (whole = all),
          clock,
        );
        for (let i = 0; i < 10_000 && !whole; i++) {
          const chunk = wire.shift();
          if (chunk) receiver.take(chunk);
          else clock.advance(3_000);
        }
        receiver.close();
        expect(whole !== undefined && Buffer.from(whole).equals(bytes)).toBe(true);
      },
    ),
    runs(),
  );
});

it('takes nothing beside the next piece, nor beyond the end', () => {
  let whole: Uint8Array | undefined;
  const wanted: number[] = [];
  const receiver = new PieceReceiver(
    4,
    (offset) => wanted.push(offset),
    (all) => (whole = all),
    new VirtualClock(),
  );
  for (const [offset, length] of [
    [1, 2],
    [0, 5],
    [0, 0],
    [4, 1],
  ] as const)
    receiver.take({ id: 'id', offset, bytes: new Uint8Array(length) });
  expect([wanted, whole]).toEqual([[0], undefined]);
  receiver.take({ id: 'id', offset: 0, bytes: new Uint8Array([1, 2, 3, 4]) });
  expect([...(whole ?? [])]).toEqual([1, 2, 3, 4]);
});

it('is cut into pieces that the slowest part of the way carries in a moment, and into large ones where it is fast', () => {
  const after = (bytesPerMs: number): number[] => {
    const clock = new VirtualClock();
    const sizes: number[] = [];
    const sender = new PieceSender(new Uint8Array(4_000_000), 'id', clock);
    const take = ({ bytes }: Chunk): boolean => sizes.push(bytes.length) > 0;
    sender.sendFrom(0, take);
    const window = sizes.reduce((sum, one) => sum + one, 0);
    expect(Math.max(...sizes), 'before anything is known').toBeLessThanOrEqual(2_048);
    clock.advance(window / bytesPerMs);
    sizes.length = 0;
    sender.sendFrom(window, take);
    return sizes;
  };
  // 256 kbit/s.
  expect(Math.max(...after(32))).toBeLessThanOrEqual(32 * 50);
  expect(Math.max(...after(4_000))).toBe(24 * 1024);
});
