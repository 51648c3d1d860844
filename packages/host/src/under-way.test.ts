import { VirtualClock } from '@porch/testkit/virtual-clock';
import { decodeChunk } from '@porch/wire';
import type { Participant } from '@porch/core';
import { expect, it } from 'vitest';
import type { Kit } from './kit.ts';
import { UnderWay } from './under-way.ts';

const PIM = { seat: 2, signKey: 'pim' } as Participant;
const RUNE = { seat: 3, signKey: 'rune' } as Participant;

function underWay(leastGapMs = 0) {
  const clock = new VirtualClock();
  const leases = new Map<string, { isRunning: boolean; state: { name: string; why?: string } }>();
  const leaseOf = (signKey: string) => {
    const lease = leases.get(signKey) ?? { isRunning: true, state: { name: 'running' } };
    leases.set(signKey, lease);
    return lease;
  };
  const said: unknown[] = [];
  const sent: { seat: number; bytes: Uint8Array; may: () => boolean }[] = [];
  const kit = { time: clock, held: { during: (_permission: string, signKey: string) => leaseOf(signKey) } };
  const ways = new UnderWay(kit as unknown as Kit, {
    permission: 'take-screenshot',
    most: 2,
    leastGapMs,
    sendPlain: (seat, plain, may) => (sent.push({ seat, bytes: decodeChunk(plain).bytes, may }), true),
    sayRefused: (seat, id, why) => said.push([seat, id, why]),
    onEnd: (id) => said.push(['ended', id]),
  });
  return { ways, clock, leaseOf, said, sent };
}
const id = (n: number) => `00000000-0000-4000-8000-00000000000${n}`;

it('brings pieces to whom they belong alone, until the last, and only while it is allowed', () => {
  const { ways, leaseOf, sent } = underWay();
  ways.begin(PIM, id(1));
  expect([ways.isAnyAwaited, ways.areAny]).toEqual([true, true]);
  ways.send(PIM, id(1), 0);
  expect(sent, 'before it is made').toEqual([]);
  ways.hold(id(1), Uint8Array.of(1, 2, 3));
  ways.send(RUNE, id(1), 0);
  ways.send(PIM, id(1), 4);
  expect([sent.length, ways.isAnyAwaited]).toEqual([0, false]);
  ways.send(PIM, id(1), 1);
  expect(sent.map(({ seat, bytes }) => [seat, ...bytes])).toEqual([[2, 2, 3]]);
  leaseOf('pim').isRunning = false;
  expect(sent[0]?.may(), 'what waits in a queue is asked for again').toBe(false);
  ways.send(PIM, id(1), 1);
  expect(sent).toHaveLength(1);
  leaseOf('pim').isRunning = true;
  ways.send(PIM, id(1), 3);
  expect(ways.areAny, 'everything is there').toBe(false);
});

it('begins for whom it is allowed, two at once, and not faster than it may', () => {
  const { ways, clock, leaseOf, said } = underWay(500);
  expect(ways.begin(PIM, id(1))).toBeDefined();
  expect([ways.begin(PIM, id(1)), said]).toEqual([undefined, []]);
  ways.begin(PIM, id(2));
  clock.advance(500);
  expect(ways.begin(PIM, id(2))).toBeDefined();
  clock.advance(500);
  ways.begin(PIM, id(3));
  Object.assign(leaseOf('rune'), { isRunning: false, state: { name: 'paused', why: 'a private moment' } });
  ways.begin(RUNE, id(4));
  leaseOf('rune').state = { name: 'over' };
  ways.begin(RUNE, id(5));
  expect(said).toEqual([
    [2, id(2), 'too many are on their way'],
    [2, id(3), 'too many are on their way'],
    [3, id(4), 'a private moment'],
    [3, id(5), 'the customer has not allowed it'],
  ]);
});

it('ends with its leave, when nobody asks for it any longer, and never by somebody else', () => {
  const { ways, clock, leaseOf, said } = underWay();
  ways.begin(PIM, id(1));
  ways.begin(RUNE, id(2));
  ways.refuse(RUNE.seat, id(1), 'not yours');
  expect([ways.heard(PIM, id(1)), ways.heard(RUNE, id(1))]).toEqual([true, false]);
  leaseOf('rune').state = { name: 'over' };
  ways.check();
  clock.advance(59_000);
  expect(ways.heard(PIM, id(1))).toBe(true);
  clock.advance(60_000);
  ways.check();
  expect(ways.heard(PIM, id(1))).toBe(true);
  clock.advance(60_001);
  ways.check();
  expect([ways.areAny, said]).toEqual([
    false,
    [
      [3, id(1), 'not yours'],
      ['ended', id(2)],
      ['ended', id(1)],
    ],
  ]);
});
