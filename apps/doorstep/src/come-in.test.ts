import { Unreachable, type RestClient } from '@porch/client';
import { failure } from '@porch/testkit/failure';
import { AppError, type DoorView, type ErrorCode } from '@porch/wire';
import { pino } from 'pino';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { comeIn } from './come-in.ts';

/* How long a program that somebody opened stands at the door, and for what. */
beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());
const door = { sessionId: 'one' } as DoorView;

function service(answers: readonly (Error | 'in')[]) {
  const asked: number[] = [];
  const answer = () => {
    asked.push(performance.now());
    const next = answers[Math.min(asked.length, answers.length) - 1];
    return next instanceof Error ? Promise.reject(next) : Promise.resolve(door);
  };
  const rest = {
    token: undefined as string | undefined,
    door: answer,
    join: () => answer().then((view) => ({ token: 'a pass', door: view })),
  };
  return { rest, asked };
}
async function tried(
  answers: readonly (Error | 'in')[],
  by: Parameters<typeof comeIn>[1],
  signal = new AbortController().signal,
) {
  const { rest, asked } = service(answers);
  const outcome = failure(comeIn(rest as unknown as RestClient, by, pino({ level: 'silent' }), signal));
  await vi.advanceTimersByTimeAsync(200_000);
  return { outcome: await outcome, asked, token: rest.token };
}
const refusal = (code: ErrorCode) => new AppError(code);
const away = new Unreachable('the service does not answer');

describe('coming in', () => {
  it('by a link or a code brings a pass, and by a token that is one already needs none', async () => {
    expect(await tried(['in'], { link: 'x' })).toMatchObject({ outcome: 'no failure', token: 'a pass' });
    expect(await tried(['in'], { code: '41279035' })).toMatchObject({ outcome: 'no failure', token: 'a pass' });
    expect(await tried(['in'], { token: 'mine' })).toMatchObject({ outcome: 'no failure', token: 'mine' });
  });

  it.each([['RECORDS_DOWN'], ['STOPPING'], ['INTERNAL']] as const)('is tried again after %s', async (code) => {
    const { outcome, asked } = await tried([refusal(code), away, refusal(code), 'in'], { link: 'x' });
    expect([outcome, asked.length]).toEqual(['no failure', 4]);
  });

  it.each([['INVITATION_UNKNOWN'], ['CODE_EXPIRED'], ['SESSION_ENDED'], ['TOO_MANY_ATTEMPTS']] as const)(
    'is over at once with %s, which waiting does not change',
    async (code) => {
      const { outcome, asked } = await tried([refusal(code), 'in'], { link: 'x' });
      expect([outcome, asked.length]).toEqual([code, 1]);
    },
  );

  it('waits longer and longer, never long, and gives up after a while with what stood in the way', async () => {
    const { outcome, asked } = await tried([away], { link: 'x' });
    expect(outcome).toContain('the service does not answer');
    const waits = asked.slice(1).map((atMs, i) => atMs - (asked[i] ?? 0));
    expect(waits[0]).toBeLessThan(400);
    expect(Math.max(...waits)).toBeLessThanOrEqual(5_000);
    const wholeMs = (asked.at(-1) ?? 0) - (asked[0] ?? 0);
    expect(wholeMs).toBeGreaterThan(60_000);
    expect(wholeMs).toBeLessThan(100_000);
  });

  it('ends when whoever opened it closes it meanwhile', async () => {
    const abort = new AbortController();
    setTimeout(() => abort.abort(), 3_000);
    const { outcome, asked } = await tried([away], { link: 'x' }, abort.signal);
    expect(outcome).toContain('the service does not answer');
    expect((asked.at(-1) ?? 0) - (asked[0] ?? 0)).toBeLessThan(8_000);
  });
});
