import { utf8ToBytes } from '@noble/hashes/utils.js';
import { z } from 'zod';
import { isSignedBy } from '../trust/keys.ts';

/* A release of Doorstep: what it is, signed by a key that no service holds. A service only passes it on. */

/** The first words of what is signed, so that a release's signature fits nothing else. */
export const RELEASE_CONTEXT = 'porch release 1\n';

export const ReleaseManifest = z.strictObject({
  product: z.literal('doorstep'),
  /** Three numbers. */
  version: z.string().regex(/^\d{1,5}\.\d{1,5}\.\d{1,5}$/),
  /** As Node names it: platform and architecture. */
  platform: z.string().regex(/^[a-z0-9]+-[a-z0-9]+$/),
  sizeBytes: z.int().min(1).max(1_000_000_000),
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
  publisher: z.string().min(1).max(120),
  builtAtMs: z.number(),
});
export type ReleaseManifest = z.infer<typeof ReleaseManifest>;

/** The manifest's exact characters are what is signed. */
export const SignedRelease = z.strictObject({
  manifest: z.string().max(2_000),
  signature: z.string().regex(/^[0-9a-f]{128}$/),
});
export type SignedRelease = z.infer<typeof SignedRelease>;

/** Undefined when the publisher's key did not sign it, or it says nothing we know. */
export function readRelease({ manifest, signature }: SignedRelease, publisherKey: string): ReleaseManifest | undefined {
  if (!isSignedBy(publisherKey, utf8ToBytes(RELEASE_CONTEXT + manifest), signature)) return undefined;
  try {
    return ReleaseManifest.parse(JSON.parse(manifest));
  } catch {
    // Signed, but of a form this program does not know: it stays as it is.
    return undefined;
  }
}

/** By numbers, from the left: an older release, or the same, is never an update. */
export function isNewer(version: string, than: string): boolean {
  const [a, b] = [version, than].map((v) => v.split('.').map(Number));
  for (let i = 0; i < 3; i++) {
    const difference = (a?.[i] ?? 0) - (b?.[i] ?? 0);
    if (difference !== 0) return difference > 0;
  }
  return false;
}
