import { AppError, realClock } from '@porch/wire';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { addressKey } from '../../sockets/addresses.ts';
import { readTrustedProxies } from '../../sockets/trusted-proxies.ts';
import { CodeSecrets, hashToken, makeToken } from '../../auth/tokens.ts';
import { readConfig } from '../../config.ts';
import { ConnectionPasses } from './connection-passes.ts';
import { TokenBucket } from '../../sockets/token-bucket.ts';

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

it('a pass for a connection is good once', () => {
  const passes = new ConnectionPasses(realClock);
  const bearer = {
    kind: 'technician' as const,
    sessionId: 's',
    technicianId: 'pim',
    name: 'Pim Aldersey',
    signInId: 'a sign-in',
  };
  const { pass } = passes.issue(bearer, 'ws://x');
  expect(passes.redeem(pass)).toEqual(bearer);
  expect(() => passes.redeem(pass)).toThrow(AppError);
  expect(() => passes.redeem('made up')).toThrow(AppError);
});

it('a code is found and shown again by the secret it was kept with, and by no other', () => {
  const [ours, theirs] = [new CodeSecrets(Buffer.alloc(32, 1)), new CodeSecrets(Buffer.alloc(32, 2))];
  const sealed = ours.seal('41279035');
  expect([ours.open(sealed), ours.lookup('41279035').equals(ours.lookup('41279035'))]).toEqual(['41279035', true]);
  expect(ours.lookup('41279035').equals(theirs.lookup('41279035'))).toBe(false);
  expect(theirs.open(sealed)).toBe(undefined);
  const rotated = new CodeSecrets(Buffer.alloc(32, 2), Buffer.alloc(32, 1));
  expect(rotated.open(sealed)).toBe('41279035');
  expect(rotated.lookups('41279035').some((lookup) => lookup.equals(ours.lookup('41279035')))).toBe(true);
  expect(hashToken(makeToken())).toHaveLength(32);
});

/** A file with a secret, readable as `mode` says. */
function secret(text: string, mode: number): string {
  const file = join(mkdtempSync(join(tmpdir(), 'porch-settings-')), 'secret');
  writeFileSync(file, text, { mode });
  return file;
}
const good = () => ({ PORCH_DATABASE_URL: 'postgres://x', PORCH_SECRET_FILE: secret('ab'.repeat(32), 0o600) });

describe('trusted proxies', () => {
  it('are those that are named, or so many as stand in front, and never everybody', () => {
    expect(readTrustedProxies('no')('10.0.0.5', 0)).toBe(false);
    const byHops = readTrustedProxies('1');
    expect([byHops('203.0.113.9', 0), byHops('203.0.113.9', 1)]).toEqual([true, false]);
    const byName = readTrustedProxies('10.0.0.5, 10.1.0.0/16');
    expect([byName('10.0.0.5', 0), byName('10.1.2.3', 3), byName('198.51.100.1', 0)]).toEqual([true, true, false]);
  });
  it('count an IPv6 network as one address', () => {
    expect(addressKey('2001:db8:1:2:3:4:5:6')).toBe(addressKey('2001:db8:1:2::9'));
    expect(addressKey('2001:db8:1:3::9')).not.toBe(addressKey('2001:db8:1:2::9'));
    expect(addressKey('::ffff:192.0.2.7')).toBe('192.0.2.7');
  });
});

describe('settings', () => {
  it.each([
    [{}, /PORCH_DATABASE_URL/],
    [{ PORCH_DATABASE_URL: 'postgres://x', PORCH_SECRET_FILE: '/nowhere/at/all' }, /openssl rand/],
    [{ PORCH_DATABASE_URL: 'mysql://x', PORCH_SECRET_FILE: 'x' }, /PORCH_DATABASE_URL/],
    [{ PORCH_DATABASE_URL: 'postgres://x', PORCH_SECRET_FILE: 'x', PORCH_PORT: '99999' }, /PORCH_PORT/],
    [{ PORCH_DATABASE_URL: 'postgres://x', PORCH_SECRET_FILE: secret('no secret', 0o600) }, /64 hexadecimal/],
    [{ PORCH_DATABASE_URL: 'postgres://x', PORCH_SECRET_FILE: secret('ab'.repeat(32), 0o644) }, /chmod 600/],
    [{ ...good(), PORCH_TRUST_PROXY: 'yes' }, /which proxies/],
    [{ ...good(), PORCH_TRUST_PROXI: '1' }, /no such setting/],
    [{ ...good(), PORCH_WEB_DIR: '/nowhere/at/all' }, /npm run build/],
    [{ ...good(), PORCH_TICKETS_URL: 'http://tickets.example' }, /PORCH_TICKETS_KEY_FILE/],
  ])('%j stops the start with words that say which', (environment, words) => {
    expect(() => readConfig(environment)).toThrow(words);
  });
});
