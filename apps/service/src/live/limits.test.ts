import { AppError } from '@porch/wire';
import { describe, expect, it } from 'vitest';
import { CodeSecrets, hashToken, makeToken } from '../auth/tokens.ts';
import { readConfig } from '../config.ts';
import { ConnectionTickets } from './connection-tickets.ts';
import { TokenBucket } from './token-bucket.ts';

it('a bucket lets a burst through, then its rate, and never more', () => {
  let nowMs = 0;
  const bucket = new TokenBucket(10, 5, () => nowMs);
  const takeAll = () => {
    let taken = 0;
    while (bucket.take()) taken++;
    return taken;
  };
  expect(takeAll()).toBe(5);
  nowMs += 300;
  expect(takeAll()).toBe(3);
  nowMs += 1e9;
  expect(takeAll()).toBe(5);
});

it('a connection ticket is good once', () => {
  const tickets = new ConnectionTickets();
  const bearer = {
    kind: 'technician' as const,
    sessionId: 's',
    technicianId: 'pim',
    name: 'Pim Aldersey',
    signInId: 'a sign-in',
  };
  const { ticket } = tickets.issue(bearer, 'ws://x');
  expect(tickets.redeem(ticket)).toEqual(bearer);
  expect(() => tickets.redeem(ticket)).toThrow(AppError);
  expect(() => tickets.redeem('made up')).toThrow(AppError);
});

it('a code is found and shown again by the secret it was kept with, and by no other', () => {
  const [ours, theirs] = [new CodeSecrets(Buffer.alloc(32, 1)), new CodeSecrets(Buffer.alloc(32, 2))];
  const sealed = ours.seal('41279035');
  expect([ours.open(sealed), ours.lookup('41279035').equals(ours.lookup('41279035'))]).toEqual(['41279035', true]);
  expect(ours.lookup('41279035').equals(theirs.lookup('41279035'))).toBe(false);
  expect(() => theirs.open(sealed)).toThrow();
  expect(hashToken(makeToken())).toHaveLength(32);
});

describe('settings', () => {
  it.each([
    [{}, /PORCH_DATABASE_URL/],
    [{ PORCH_DATABASE_URL: 'postgres://x', PORCH_SECRET_FILE: '/nowhere/at/all' }, /openssl rand/],
    [{ PORCH_DATABASE_URL: 'mysql://x', PORCH_SECRET_FILE: 'x' }, /PORCH_DATABASE_URL/],
    [{ PORCH_DATABASE_URL: 'postgres://x', PORCH_SECRET_FILE: 'x', PORCH_PORT: '99999' }, /PORCH_PORT/],
    [{ PORCH_DATABASE_URL: 'postgres://x', PORCH_SECRET_FILE: import.meta.filename }, /64 hexadecimal/],
  ])('%j stops the start with words that say which', (environment, words) => {
    expect(() => readConfig(environment)).toThrow(words);
  });
});
