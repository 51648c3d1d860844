import { bytesToHex, randomBytes } from '@noble/hashes/utils.js';

/** Where secrets, ids and jitter come from, as it is handed in; a test hands in one that it can repeat. */
export interface Randomness {
  bytes(count: number): Uint8Array;
}

/** The platform's own, fit for keys. */
export const realRandomness: Randomness = { bytes: (count) => randomBytes(count) };

/** A UUID of version 4 (RFC 9562, 5.4). */
export function randomId(random: Randomness): string {
  const bytes = random.bytes(16);
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  return bytesToHex(bytes).replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}

/** Evenly from 0 to below 1, in steps fine enough for waiting. */
export function randomShare(random: Randomness): number {
  const [high = 0, low = 0] = random.bytes(2);
  return (high * 256 + low) / 65_536;
}
