import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import {
  FRAME_MS,
  FRAME_SAMPLES,
  FrameCutter,
  limit,
  peakOf,
  Playout,
  samplesIn,
  SilenceGate,
  SoundRate,
} from './index.ts';

/** A ramp that never jumps: wherever one sample follows another, what was left out is seen. */
const frameAt = (number: number) =>
  Float32Array.from({ length: FRAME_SAMPLES }, (_, i) => Math.sin((number * FRAME_SAMPLES + i) / 60) * 0.5);

/** Frames that come with so much delay each, in order; heard in steps of 10 ms. */
function hear(delaysMs: readonly number[], steps = 0) {
  const playout = new Playout(1);
  const arrivals: number[] = [];
  for (const [n, delay] of delaysMs.entries())
    arrivals.push(Math.max(arrivals.at(-1) ?? 0, (n + 1) * FRAME_MS + delay));
  const heard: number[] = [];
  let mostWaiting = 0;
  let next = 0;
  for (let nowMs = 0; nowMs < (arrivals.at(-1) ?? 0) + 600 + steps; nowMs += 10) {
    for (; (arrivals[next] ?? Infinity) <= nowMs; next++) playout.add(frameAt(next));
    const out = new Float32Array(samplesIn(10));
    playout.mixInto(out, 1);
    heard.push(...out);
    mostWaiting = Math.max(mostWaiting, playout.waitingMs);
  }
  return { heard, mostWaiting, playout };
}
const loud = (samples: readonly number[]) => samples.filter((sample) => Math.abs(sample) > 0.01).length;

it('is heard whole and evenly on an even line, 40 ms late', () => {
  const { heard, playout } = hear(Array.from({ length: 100 }, () => 5));
  const from = heard.findIndex((sample) => Math.abs(sample) > 1e-6);
  expect(from / 48).toBeLessThan(FRAME_MS + 5 + 40 + 10);
  expect(playout.delayMs).toBe(40);
  // Without a jump anywhere: the steepest step of the wave itself is 1/120.
  const steepest = heard.reduce((most, sample, i) => Math.max(most, Math.abs(sample - (heard[i - 1] ?? 0))), 0);
  expect(steepest).toBeLessThan(0.02);
  expect(loud(heard)).toBeGreaterThan(loud([...Array(100).keys()].flatMap((n) => [...frameAt(n)])) * 0.98);
});

it('never clicks, never keeps more than 400 ms waiting, and loses little on any line', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 120 }), { minLength: 60, maxLength: 200 }),
      fc.integer({ min: 0, max: 900 }),
      (delays, stallMs) => {
        const { heard, mostWaiting, playout } = hear(delays.map((ms, n) => ms + (n === 30 ? stallMs : 0)));
        expect(mostWaiting).toBeLessThanOrEqual(400);
        expect(playout.delayMs).toBeLessThanOrEqual(200);
        const whole = delays.length * FRAME_SAMPLES;
        const lostToStall = samplesIn(stallMs + 440);
        expect(loud(heard)).toBeGreaterThan(whole * 0.9 - lostToStall);
        expect(heard.every((sample) => Math.abs(sample) <= 0.501)).toBe(true);
      },
    ),
    runs(),
  );
});

it('waits longer after it ran dry, and less again when the line is calm', () => {
  const uneven = Array.from({ length: 50 }, (_, n) => (n % 10 === 9 ? 90 : 0));
  const { playout } = hear(uneven);
  expect(playout.delayMs).toBeGreaterThan(40);
  const grown = playout.delayMs;
  for (let n = 0; n < 3_000; n++) {
    playout.add(frameAt(n));
    playout.mixInto(new Float32Array(FRAME_SAMPLES), 1);
  }
  expect(playout.delayMs).toBeLessThan(grown);
});

it('plays what is shorter than its delay, too, fills what was lost, and mixes two voices', () => {
  const { heard } = hear([0]);
  expect(loud(heard)).toBeGreaterThan(FRAME_SAMPLES * 0.8);
  const [one, other] = [new Playout(1), new Playout(2)];
  for (let n = 0; n < 3; n++) {
    one.add(new Float32Array(FRAME_SAMPLES).fill(0.5));
    other.add(Float32Array.from({ length: FRAME_SAMPLES * 2 }, (_, i) => (i % 2 ? 0.25 : -0.25)));
  }
  const out = new Float32Array(samplesIn(20) * 2);
  one.mixInto(out, 2);
  expect(other.mixInto(out, 2, 2)).toBeCloseTo(0.25);
  expect([out.at(-2), out.at(-1)]).toEqual([0, 1]);
  const before = one.waitingMs;
  one.add(new Float32Array(FRAME_SAMPLES), 2);
  expect(one.waitingMs - before).toBe(3 * FRAME_MS);
});

it('takes what is no sound without a crash', () => {
  const playout = new Playout(2);
  playout.add(new Float32Array(0));
  playout.add(new Float32Array([NaN, Infinity, 1]));
  playout.add(new Float32Array(2_000_000), 1e9);
  const out = new Float32Array(samplesIn(20) * 2);
  for (let n = 0; n < 50; n++) playout.mixInto(out, 2);
  expect(out.every(Number.isFinite)).toBe(true);
});

it('cuts whatever comes into frames, and leaves nothing out', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 3_000 }), { maxLength: 30 }), (sizes) => {
      const got: number[] = [];
      const cutter = new FrameCutter(1, (frame) => got.push(...frame));
      let next = 0;
      for (const size of sizes) cutter.add(Float32Array.from({ length: size }, () => next++));
      expect(got).toEqual(Array.from({ length: next - (next % FRAME_SAMPLES) }, (_, i) => i));
    }),
    runs(),
  );
});

it('sends no silence, but the end of a word and the first of the next', () => {
  const gate = new SilenceGate();
  const quiet = new Float32Array(FRAME_SAMPLES);
  const word = frameAt(0);
  expect(gate.take(quiet).isSilent).toBe(true);
  expect(gate.take(word)).toMatchObject({ isSilent: false, isFirst: true });
  expect(gate.take(word)).toMatchObject({ isSilent: false, isFirst: false });
  const after = Array.from({ length: 50 }, () => gate.take(quiet).isSilent);
  expect(after.filter((isSilent) => !isSilent).length).toBe(11);
  expect(gate.take(word).isFirst).toBe(true);
});

it('gives way step by step, then wholly, and comes back', () => {
  const rate = new SoundRate([64_000, 32_000, 16_000]);
  const [good, bad] = [
    { got: 50, lost: 0, lateMs: 10 },
    { got: 40, lost: 10, lateMs: 10 },
  ];
  let nowMs = 0;
  const after = (report: typeof good, seconds: number) => {
    for (let n = 0; n < seconds; n++) rate.take(report, (nowMs += 1_000));
    return rate.at(nowMs);
  };
  expect([after(bad, 1), after(bad, 1), after(bad, 1)]).toEqual([32_000, 16_000, undefined]);
  expect(rate.at(nowMs + 3_000)).toBe(16_000);
  nowMs += 3_000;
  expect([after(good, 4), after(good, 1), after(good, 5), after(good, 50)]).toEqual([16_000, 32_000, 64_000, 64_000]);
  expect(after({ ...good, lateMs: 400 }, 1)).toBe(32_000);
  expect(after({ got: 0, lost: 0, lateMs: 0 }, 20), 'silence says nothing of a line').toBe(32_000);
});

it('keeps a sum of voices within what can be played, and does nothing to one', () => {
  const samples = Float32Array.from([0.5, -0.8, 1.4, -3]);
  limit(samples);
  expect([...samples.subarray(0, 2)]).toEqual([0.5, Math.fround(-0.8)]);
  expect(peakOf(samples)).toBeLessThanOrEqual(1);
  expect(samples[2]).toBeGreaterThan(0.9);
});
