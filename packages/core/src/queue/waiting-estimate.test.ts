import fc from 'fast-check';
import { expect, it } from 'vitest';
import { estimateWait, meanWithPrior } from './waiting-estimate.ts';

const MINUTE = 60_000;

/** A small generator of its own, so that a day is the same on every machine. */
function randomOf(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return (state + 0.5) / 2 ** 32;
  };
}

/** One day of a desk: people come at random, help takes a time like real help (log-normal), some give up. */
function simulateDay(seed: number): { said: number; was: number }[] {
  const random = randomOf(seed * 7_919 + 1);
  const exponential = (mean: number) => -Math.log(random()) * mean;
  const normal = () => Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());
  const [places, meanHelpMs, meanPatienceMs] = [4 + (seed % 4), 12 * MINUTE, 60 * MINUTE];
  const sigma = 0.8;
  const help = () => Math.exp(Math.log(meanHelpMs) - (sigma * sigma) / 2 + sigma * normal());
  const meanGapMs = meanHelpMs / places / 1.02;
  const busyUntil: number[] = [];
  const waiting: { at: number; leavesAt: number; said: number }[] = [];
  const told: { said: number; was: number }[] = [];
  const helped: number[] = [];
  let now = 0;
  const serveUntil = (until: number) => {
    for (;;) {
      const next = busyUntil.length < places ? now : Math.min(...busyUntil);
      if (next > until || !waiting.length) break;
      now = Math.max(now, next);
      if (busyUntil.length >= places) busyUntil.splice(busyUntil.indexOf(next), 1);
      const first = waiting.shift();
      if (!first) break;
      const startsAt = Math.max(first.at, next);
      if (first.leavesAt < startsAt) {
        if (busyUntil.length < places) busyUntil.push(next);
        continue;
      }
      told.push({ said: first.said, was: startsAt - first.at });
      const takes = help();
      helped.push(takes);
      busyUntil.push(startsAt + takes);
    }
    now = until;
  };
  for (let at = exponential(meanGapMs); at < 9 * 60 * MINUTE; at += exponential(meanGapMs)) {
    serveUntil(at);
    for (let i = busyUntil.length - 1; i >= 0; i--) if ((busyUntil[i] ?? 0) <= at) busyUntil.splice(i, 1);
    const ahead = waiting.filter((w) => w.leavesAt > at).length;
    const estimate = estimateWait({
      ahead,
      places,
      freePlaces: places - busyUntil.length,
      meanHelpMs: meanWithPrior(helped.slice(-50), 12 * MINUTE, 10),
      meanPatienceMs,
      offerMs: 0,
    });
    waiting.push({ at, leavesAt: at + exponential(meanPatienceMs), said: estimate?.aboutMs ?? 0 });
  }
  serveUntil(Infinity);
  return told;
}

it('says on the whole what it comes to: over 200 days the median error of a day is under a fifth', () => {
  const errors: number[] = [];
  let inRange = 0;
  for (let seed = 0; seed < 200; seed++) {
    const waited = simulateDay(seed).filter((c) => c.was > MINUTE && c.said > 0);
    const sum = (of: 'said' | 'was') => waited.reduce((s, c) => s + c[of], 0);
    if (waited.length < 10) continue;
    errors.push(Math.abs(sum('said') - sum('was')) / sum('was'));
    inRange++;
  }
  errors.sort((a, b) => a - b);
  const median = errors[Math.floor(errors.length / 2)] ?? 1;
  expect(inRange, 'most days have a queue at all').toBeGreaterThan(120);
  expect(median).toBeLessThan(0.2);
});

it('grows with who is ahead, shrinks with who is here, and has no number when nobody is', () => {
  const base = { places: 4, freePlaces: 0, meanHelpMs: 12 * MINUTE, meanPatienceMs: Infinity, offerMs: 20_000 };
  expect(estimateWait({ ...base, ahead: 3, places: 0 })).toBeUndefined();
  expect(estimateWait({ ...base, ahead: 0, freePlaces: 1 })).toEqual({ aboutMs: 10_000, fromMs: 0, toMs: 20_000 });
  expect(estimateWait({ ...base, ahead: 3 })?.aboutMs).toBeCloseTo(12 * MINUTE);
  fc.assert(
    fc.property(
      fc.nat(50),
      fc.integer({ min: 1, max: 20 }),
      fc.integer({ min: 1, max: 120 }),
      (ahead, places, patience) => {
        const now = { ...base, ahead, places, meanPatienceMs: patience * MINUTE };
        const [here, further, more] = [
          estimateWait(now),
          estimateWait({ ...now, ahead: ahead + 1 }),
          estimateWait({ ...now, places: places + 1 }),
        ].map((e) => e?.aboutMs ?? 0) as [number, number, number];
        expect(further).toBeGreaterThan(here);
        expect(more).toBeLessThan(here);
        const range = estimateWait(now);
        expect(range && range.fromMs <= range.aboutMs && range.aboutMs <= range.toMs).toBe(true);
      },
    ),
    { seed: 20_261_123, numRuns: 200 },
  );
});
