import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { runs } from '@porch/testkit/seeds';
import { makeKeys, signBytes } from '../trust/keys.ts';
import { isNewer, readRelease, RELEASE_CONTEXT, type ReleaseManifest } from './release.ts';

const manifest: ReleaseManifest = {
  product: 'doorstep',
  version: '1.2.3',
  platform: 'linux-x64',
  sizeBytes: 5,
  sha256: 'ab'.repeat(32),
  publisher: 'Marrowick Ferries IT desk',
  builtAtMs: 1,
};
const keys = makeKeys();
const signed = (text: string, context = RELEASE_CONTEXT) => ({
  manifest: text,
  signature: signBytes(keys, utf8ToBytes(context + text)),
});

it('orders versions by their numbers: of two exactly one is newer, unless they are the same', () => {
  const version = fc.tuple(fc.nat(12), fc.nat(12), fc.nat(12)).map((parts) => parts.join('.'));
  fc.assert(
    fc.property(version, version, version, (a, b, c) => {
      expect(isNewer(a, b) && isNewer(b, a)).toBe(false);
      expect(isNewer(a, b) || isNewer(b, a)).toBe(a !== b);
      if (isNewer(a, b) && isNewer(b, c)) expect(isNewer(a, c)).toBe(true);
    }),
    runs(),
  );
  expect(isNewer('0.10.0', '0.9.9')).toBe(true);
});

it('reads a release only with the publisher’s signature on its exact characters, for a release and nothing else', () => {
  const text = JSON.stringify(manifest);
  const good = signed(text);
  expect(readRelease(good, keys.signKey)).toEqual(manifest);
  expect(readRelease(good, makeKeys().signKey)).toBeUndefined();
  expect(readRelease({ ...good, manifest: `${text} ` }, keys.signKey)).toBeUndefined();
  expect(readRelease(signed(text, 'porch grant 1\n'), keys.signKey)).toBeUndefined();
  for (const bad of [
    '',
    '{',
    '[]',
    JSON.stringify({ ...manifest, version: '1.2' }),
    JSON.stringify({ ...manifest, x: 1 }),
  ])
    expect(readRelease(signed(bad), keys.signKey), bad).toBeUndefined();
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 64, maxLength: 64 }), (bytes) => {
      expect(readRelease({ manifest: text, signature: bytesToHex(bytes) }, keys.signKey)).toBeUndefined();
    }),
    runs(),
  );
});
