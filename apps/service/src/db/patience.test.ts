import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { Patience } from './patience.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());
const late = () => new Error('too late');

it('ends what takes longer, and nothing that was in time', async () => {
  const patience = new Patience(1_000);
  expect(await patience.during(Promise.resolve('done'), late)).toBe('done');
  const waiting = expect(patience.during(new Promise(() => undefined), late)).rejects.toThrow('too late');
  await vi.advanceTimersByTimeAsync(999);
  expect(patience.isOver).toBe(false);
  await vi.advanceTimersByTimeAsync(1);
  await waiting;
  expect(patience.isOver).toBe(true);
  await expect(patience.during(new Promise(() => undefined), late), 'once it is over').rejects.toThrow('too late');
  patience.end();
  expect(vi.getTimerCount()).toBe(0);
});

it('does not count the time in which the whole machine stood still', async () => {
  vi.useRealTimers();
  const patience = new Patience(1_000);
  const answer = new Promise((resolve) => setTimeout(resolve, 260, 'read at last'));
  // Nothing of this process runs meanwhile: timers that are due come before what waits to be read.
  Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 1_500);
  const answered = patience.during(
    answer.then(() => new Promise((resolve) => setImmediate(resolve, 'read'))),
    late,
  );
  expect(await answered).toBe('read');
  expect(patience.isOver).toBe(false);
  patience.end();
});
