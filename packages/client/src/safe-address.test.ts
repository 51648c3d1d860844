import { expect, it } from 'vitest';
import { safeAddress, UnsafeAddress } from './safe-address.ts';

it('takes encrypted addresses, and others on this machine alone', () => {
  for (const good of [
    'https://help.marrowick.example',
    'wss://help.marrowick.example/live',
    'http://127.0.0.1:8420',
    'http://localhost:8420',
    'ws://[::1]:8420/live',
  ])
    expect(safeAddress(good)).toBe(good);
  for (const bad of [
    'http://help.marrowick.example',
    'ws://help.marrowick.example/live',
    'http://127.0.0.1.marrowick.example',
    'http://localhost.marrowick.example',
    'http://192.0.2.7',
    'file:///etc/passwd',
    'help.marrowick.example',
    '',
  ])
    expect(() => safeAddress(bad), bad).toThrow(UnsafeAddress);
});
