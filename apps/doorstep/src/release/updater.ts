import { safeAddress } from '@porch/client';
import { isNewer, readRelease, SignedRelease, type ReleaseManifest } from '@porch/wire';
import { createHash, randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { chmod, rename, rm } from 'node:fs/promises';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Release } from './self.ts';

/** A service that does not answer by then is asked again another day. */
const ANSWER_MS = 10_000;
const DOWNLOAD_MS = 10 * 60_000;

export type UpdateResult =
  | { readonly what: 'newest' }
  | { readonly what: 'updated'; readonly version: string }
  | { readonly what: 'refused'; readonly why: string };

/**
 * Replaces a file of ours by a newer release, if the service has one that the publisher signed. The service decides
 * nothing: neither an older release, nor one of another key, nor other bytes than those that were signed are taken.
 * Throws when the service cannot be reached.
 */
export async function updateFile(file: string, own: Release, serviceUrl: string): Promise<UpdateResult> {
  const answer = await fetch(`${safeAddress(serviceUrl)}/download/doorstep/release.json`, {
    signal: AbortSignal.timeout(ANSWER_MS),
  });
  if (answer.status === 404) return { what: 'newest' };
  const signed = SignedRelease.safeParse(await answer.json().catch(() => undefined));
  const manifest = signed.success ? readRelease(signed.data, own.publisherKey) : undefined;
  if (!manifest) return { what: 'refused', why: `what the service offers is not signed by ${own.publisher}` };
  if (manifest.platform !== `${process.platform}-${process.arch}`)
    return { what: 'refused', why: `the release is for ${manifest.platform}` };
  if (!isNewer(manifest.version, own.version)) return { what: 'newest' };
  const fresh = `${file}.${randomBytes(6).toString('hex')}.new`;
  try {
    const isWhole = await fetchTo(fresh, `${serviceUrl}/download/doorstep/file`, manifest);
    if (!isWhole) return { what: 'refused', why: 'what came is not what was signed' };
    await chmod(fresh, 0o755);
    // In one step: whoever starts it gets the old one or the new one, never half of one.
    await rename(fresh, file);
    return { what: 'updated', version: manifest.version };
  } finally {
    await rm(fresh, { force: true });
  }
}

/** Stops as soon as there are more bytes than were signed. */
async function fetchTo(file: string, url: string, manifest: ReleaseManifest): Promise<boolean> {
  const answer = await fetch(url, { signal: AbortSignal.timeout(DOWNLOAD_MS) });
  if (!answer.ok || !answer.body) return false;
  const hash = createHash('sha256');
  let sizeBytes = 0;
  const counted = new Transform({
    transform(part: Buffer, _encoding, done) {
      sizeBytes += part.length;
      hash.update(part);
      done(sizeBytes > manifest.sizeBytes ? new Error('more bytes than were signed') : null, part);
    },
  });
  try {
    await pipeline(Readable.fromWeb(answer.body as never), counted, createWriteStream(file, { mode: 0o600 }));
  } catch (error) {
    if (sizeBytes > manifest.sizeBytes) return false;
    throw error;
  }
  return sizeBytes === manifest.sizeBytes && hash.digest('hex') === manifest.sha256;
}
