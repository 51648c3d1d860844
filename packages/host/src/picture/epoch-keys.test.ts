import { runs } from '@porch/testkit/seeds';
import type { PictureMessage } from '@porch/wire';
import fc from 'fast-check';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { EpochKeys } from './epoch-keys.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** Keys, and what was told to whom. Seats are never given twice, and so are keys. */
class Played {
  readonly told = new Map<string, Set<number>>();
  readonly epochs: number[] = [];
  readonly pending = new Map<number, number>();
  viewers: number[] = [];
  readonly keys: EpochKeys;

  constructor() {
    this.keys = new EpochKeys(
      (seat, message) => this.#tell(seat, message),
      () => this.epochs.push(this.keys.epoch),
    );
  }
  set(viewers: number[]): void {
    this.viewers = viewers;
    this.keys.setViewers(viewers.map((seat) => ({ seat, start: `key ${seat}` })));
  }
  #tell(seat: number, message: PictureMessage): void {
    if (message.type !== 'epochKey') return;
    this.told.set(message.secret, (this.told.get(message.secret) ?? new Set()).add(seat));
    this.pending.set(seat, message.epoch);
  }
}

const step = fc.oneof(
  fc.record({ do: fc.constant('come' as const) }),
  fc.record({ do: fc.constant('go' as const), n: fc.nat(5) }),
  fc.record({ do: fc.constant('take' as const), n: fc.nat(5) }),
  fc.record({ do: fc.constant('again' as const), n: fc.nat(8) }),
  fc.record({ do: fc.constant('hide' as const) }),
  fc.record({ do: fc.constant('time' as const), ms: fc.constantFrom(10, 400, 1_100) }),
);

it('nobody who went, or had not come, knows the key that is in use; epochs only grow', () => {
  fc.assert(
    fc.property(fc.array(step, { minLength: 5, maxLength: 40, size: 'max' }), (steps) => {
      const p = new Played();
      let seat = 1;
      for (const s of steps) {
        const before = p.keys.secret;
        const wereThere = p.viewers;
        if (s.do === 'come') p.set([...p.viewers, seat++]);
        else if (s.do === 'go') p.set(p.viewers.filter((_, i) => i !== s.n));
        else if (s.do === 'take') {
          const who = p.viewers[s.n];
          if (who !== undefined) p.keys.taken(who, p.pending.get(who) ?? 0);
        } else if (s.do === 'again') p.keys.tellAgain(s.n);
        else if (s.do === 'hide') p.keys.begin('at once');
        else vi.advanceTimersByTime(s.ms);
        if (s.do === 'go' && wereThere.length > p.viewers.length && before)
          expect(p.keys.secret, 'going waits for nobody').not.toBe(before);
        for (const knows of p.told.get(p.keys.secret) ?? []) expect(p.viewers).toContain(knows);
      }
      expect(p.epochs).toEqual([...new Set(p.epochs)].sort((a, b) => a - b));
      // Whoever is there at the end can read what comes, once those who stay had their second.
      vi.advanceTimersByTime(1_100);
      for (const viewer of p.viewers) expect(p.told.get(p.keys.secret)?.has(viewer)).toBe(true);
      p.keys.close();
    }),
    runs(),
  );
});

it('those who stay have a second to take a new key; until then, or until all have it, the old one is used', () => {
  const p = new Played();
  p.set([1]);
  const first = p.keys.secret;
  p.set([1, 2]);
  expect(p.keys.secret).toBe(first);
  p.keys.taken(2, 2);
  p.keys.taken(1, 1);
  expect(p.keys.secret, 'an answer to an older key is none').toBe(first);
  p.keys.taken(1, 2);
  expect([p.keys.epoch, p.keys.secret === first]).toEqual([2, false]);
  p.set([1, 2, 3]);
  vi.advanceTimersByTime(1_000);
  expect(p.keys.epoch).toBe(3);
});
