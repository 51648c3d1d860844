import type { FastifyBaseLogger } from 'fastify';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { RepeatedWork } from './repeated-work.ts';

/* What a service does again and again: reminders, deliveries, sessions that nobody is in. */
beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());
const log = () => {
  const warn = vi.fn();
  return { warn, log: { warn } as unknown as FastifyBaseLogger };
};

it('goes on after a failure, which is logged, and one round begins after the other has ended', async () => {
  const { warn, log: logger } = log();
  let [running, most, rounds] = [0, 0, 0];
  const work = new RepeatedWork('testing', 100, logger, async () => {
    most = Math.max(most, ++running);
    await new Promise((resolve) => setTimeout(resolve, 250));
    running--;
    if (++rounds === 2) throw new Error('once');
  });
  work.start();
  await vi.advanceTimersByTimeAsync(3_500);
  expect([rounds, most, warn.mock.calls.length]).toEqual([10, 1, 1]);
  expect(warn.mock.calls[0]?.[0]).toMatchObject({ what: 'testing' });
  await work.close();
});

it('is waited for when it is closed in the middle, and does not begin again', async () => {
  const { log: logger } = log();
  let rounds = 0;
  const work = new RepeatedWork('testing', 100, logger, async () => {
    await new Promise((resolve) => setTimeout(resolve, 500));
    rounds++;
  });
  work.start();
  await vi.advanceTimersByTimeAsync(150);
  let isClosed = false;
  const closing = work.close().then(() => (isClosed = true));
  await vi.advanceTimersByTimeAsync(200);
  expect([isClosed, rounds]).toEqual([false, 0]);
  await vi.advanceTimersByTimeAsync(400);
  await closing;
  await vi.advanceTimersByTimeAsync(5_000);
  expect([isClosed, rounds]).toEqual([true, 1]);
});

it('that is closed before it began does nothing', async () => {
  const { log: logger } = log();
  const round = vi.fn(() => Promise.resolve());
  const work = new RepeatedWork('testing', 100, logger, round);
  work.start();
  await work.close();
  await vi.advanceTimersByTimeAsync(5_000);
  expect(round).not.toHaveBeenCalled();
});
