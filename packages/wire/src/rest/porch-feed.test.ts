import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { applyPorchChange, PorchChange, PorchTold } from './porch-feed.ts';
import { PorchView } from './rest-schemas.ts';

const START_MS = 1_780_000_000_000;
/** Until when something lasts: what ends at another moment ends at least a second apart. */
const seconds = fc.integer({ min: 0, max: 90 }).map((n) => n * 1_000);
/** A porch as a desk may have it: which things there are, in which order, and what they say. */
const porch = fc
  .record({
    passedMs: fc.integer({ min: 0, max: 60_000 }),
    wrapUpUntil: seconds,
    waiting: fc.uniqueArray(
      fc.record({
        id: fc.integer({ min: 1, max: 5 }),
        said: fc.nat(2),
        offerUntil: fc.option(seconds),
      }),
      { selector: (w) => w.id, maxLength: 5 },
    ),
    tickets: fc.uniqueArray(
      fc.record({ ref: fc.constantFrom('MF-1', 'MF-2', 'MF-3'), title: fc.constantFrom('a', 'b') }),
      { selector: (t) => t.ref },
    ),
    trouble: fc.option(fc.constant('it does not answer')),
    undelivered: fc.nat(2),
  })
  .map(({ passedMs, wrapUpUntil, waiting, tickets, trouble, undelivered }) => (before: number): PorchView => {
    const nowMs = before + passedMs;
    const left = (until: number) => Math.max(0, START_MS + until - nowMs);
    return PorchView.parse({
      ways: { hasMail: true, hasTexts: false },
      bundles: [],
      me: { isAway: false, wrapUpMs: left(wrapUpUntil), screens: 0, chats: 0, limits: { screens: 3, chats: 5 } },
      mayNotAsk: [],
      knownFaults: [],
      bookings: [],
      devices: [],
      waiting: waiting.map(({ id, said, offerUntil }) => ({
        id: `entry-${id}`,
        ...{ name: 'Greta Moss', topic: 'Printing', language: 'en', description: `said ${said}`, wants: 'screen' },
        ...{ isConfirmed: false, sinceMs: 1, state: 'waiting', messages: [], reasons: [], hurdles: [] },
        ...(offerUntil === null
          ? {}
          : { offer: { technicianName: 'Pim', isMine: true, remainingMs: left(offerUntil) } }),
      })),
      sessions: [],
      tickets: tickets.map(({ ref, title }) => ({
        ref,
        title,
        state: 'open',
        description: '',
        requester: { name: '', address: '' },
      })),
      handovers: [],
      ...(trouble ? { ticketTrouble: trouble } : {}),
      undelivered,
      nowMs,
    });
  });

const counted = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value), (name, each: unknown) =>
    name === 'remainingMs' || name === 'wrapUpMs' ? undefined : each,
  );
const counts = (view: PorchView | undefined): number[] => [
  view?.me.wrapUpMs ?? NaN,
  ...(view?.waiting.map(({ offer }) => offer?.remainingMs ?? 0) ?? []),
];

describe('the porch as it changes', () => {
  it('is known to whoever heard every difference as it is, whatever came, went, moved or ran out', () => {
    fc.assert(
      fc.property(fc.array(porch, { minLength: 1, maxLength: 8 }), (steps) => {
        const told = new PorchTold();
        let heard: PorchView | undefined;
        let nowMs = START_MS;
        for (const make of steps) {
          const now = make(nowMs);
          nowMs = now.nowMs;
          const change = told.difference(now);
          if (change) {
            // As it goes over the line.
            heard = applyPorchChange(heard, PorchChange.parse(JSON.parse(JSON.stringify(change))));
          }
          // What was not told is the same but for what counts down.
          expect(counted({ ...heard, nowMs: 0 })).toEqual(counted({ ...now, nowMs: 0 }));
          if (!change) continue;
          const [ours, theirs] = [counts(now), counts(heard)];
          for (const [at, ms] of ours.entries()) expect(Math.abs(ms - (theirs[at] ?? NaN))).toBeLessThan(501);
        }
      }),
      { numRuns: 200, seed: 20_261_128 },
    );
  });

  it('says nothing when nothing but time has passed, and only what is other when something is', () => {
    const base = fc.sample(porch, { numRuns: 1, seed: 3 })[0]?.(START_MS) as PorchView;
    const at = (nowMs: number, more: Partial<PorchView> = {}): PorchView => ({
      ...base,
      me: { ...base.me, wrapUpMs: Math.max(0, START_MS + 40_000 - nowMs) },
      ...more,
      nowMs,
    });
    const told = new PorchTold();
    told.difference(at(START_MS));
    expect(told.difference(at(START_MS + 30_000))).toBeUndefined();
    expect(told.difference(at(START_MS + 90_000)), 'over, too').toBeUndefined();
    expect(told.difference(at(START_MS + 91_000, { undelivered: 9 }))).toEqual({
      nowMs: START_MS + 91_000,
      set: { undelivered: 9 },
      lists: {},
    });
    // It begins again: that is news.
    const again = at(START_MS + 92_000, { undelivered: 9, me: { ...base.me, wrapUpMs: 60_000 } });
    expect(told.difference(again)?.set.me?.wrapUpMs).toBe(60_000);
  });

  it('is nothing to whoever missed what it builds on', () => {
    const change = PorchChange.parse({ nowMs: 1, set: { undelivered: 1 }, lists: {} });
    expect(applyPorchChange(undefined, change)).toBeUndefined();
  });
});
