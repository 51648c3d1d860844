import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import type { WebSocket } from 'ws';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { boundDebts, MAX_UNSENT_TOGETHER_BYTES } from './debts.ts';
import { MAX_STRANGERS, MAX_STRANGERS_PER_ADDRESS, Strangers, type Leave } from './strangers.ts';

/* Sockets that have not said who they are cost each other places, and nobody who is in. */
describe('strangers', () => {
  it('are never more than there are places, in all and from one address, however they come and go', () => {
    const step = fc.oneof(
      {
        weight: 4,
        arbitrary: fc.record({
          do: fc.constant('come' as const),
          from: fc.nat(30),
          times: fc.integer({ min: 1, max: 60 }),
        }),
      },
      { weight: 1, arbitrary: fc.record({ do: fc.constant('go' as const), which: fc.nat(500), twice: fc.boolean() }) },
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
        const strangers = new Strangers();
        const here: { address: string; leave: Leave; isEnded: boolean }[] = [];
        for (const s of steps) {
          if (s.do === 'go') {
            const one = here[s.which % Math.max(1, here.length)];
            one?.leave();
            if (s.twice) one?.leave();
            if (one) here.splice(here.indexOf(one), 1);
          } else
            for (let i = 0; i < s.times; i++) {
              const address = `192.0.2.${s.from}`;
              const mine = { address, leave: () => undefined as void, isEnded: false };
              const leave = strangers.enter(address, () => {
                mine.isEnded = true;
                here.splice(here.indexOf(mine), 1);
              });
              const fromHere = here.filter((one) => one.address === address).length;
              if (fromHere >= MAX_STRANGERS_PER_ADDRESS) expect(leave).toBeUndefined();
              if (leave) here.push(Object.assign(mine, { leave }));
            }
          expect(strangers.size).toBe(here.length);
          expect(here.length).toBeLessThanOrEqual(MAX_STRANGERS);
          expect(here.some((one) => one.isEnded)).toBe(false);
        }
        for (const one of [...here]) one.leave();
        expect(strangers.size, 'every place comes back').toBe(0);
      }),
      runs(),
    );
  });

  it('of one network that is handed to one subscriber are one, whatever addresses they make up in it', () => {
    const strangers = new Strangers();
    const entered = Array.from({ length: 60 }, (_, i) =>
      strangers.enter(`2001:db8:1:2::${i.toString(16)}`, () => undefined),
    );
    expect(entered.filter(Boolean)).toHaveLength(MAX_STRANGERS_PER_ADDRESS);
    expect(
      strangers.enter('2001:db8:1:3::1', () => undefined),
      'the neighbour is not',
    ).toBeDefined();
  });

  it('take the oldest’s place when there is none left, and the oldest hears of it', () => {
    const strangers = new Strangers();
    const ended: number[] = [];
    for (let i = 0; i < MAX_STRANGERS + 3; i++)
      expect(strangers.enter(`198.51.${Math.floor(i / 20)}.${i % 20}`, () => void ended.push(i))).toBeDefined();
    expect([strangers.size, ended]).toEqual([MAX_STRANGERS, [0, 1, 2]]);
  });
});

describe('readers that do not read', () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());
  const reader = (bufferedAmount: number) => ({ bufferedAmount, terminate: vi.fn() });

  it('are cut when all together cost too much, the largest debtor first and no more than needed', () => {
    const MB = 1024 * 1024;
    const readers = [reader(10 * MB), reader(60 * MB), reader(0), reader(50 * MB), reader(5 * MB)];
    const cut: number[] = [];
    const stop = boundDebts(
      () => readers as unknown as WebSocket[],
      (bytes) => void cut.push(bytes / MB),
    );
    vi.advanceTimersByTime(600);
    expect(cut).toEqual([60]);
    expect(readers.map((r) => r.terminate.mock.calls.length)).toEqual([0, 1, 0, 0, 0]);
    stop();
  });

  it('are left alone up to the budget, and watched no longer when it is over', () => {
    const readers = [reader(MAX_UNSENT_TOGETHER_BYTES)];
    const stop = boundDebts(
      () => readers as unknown as WebSocket[],
      () => expect.unreachable(),
    );
    vi.advanceTimersByTime(5_000);
    stop();
    readers.push(reader(MAX_UNSENT_TOGETHER_BYTES));
    vi.advanceTimersByTime(5_000);
    expect(readers.map((r) => r.terminate.mock.calls.length)).toEqual([0, 0]);
  });
});
