import { OLD_MS } from '@porch/client';
import type { PictureMessage } from '@porch/wire';
import type { PictureNow } from './tool.ts';

/** A slow round trip of our own that one feels. */
const SLOW_OWN_LINE_MS = 250;

/** What to say of a picture that nobody has vouched for lately; empty while all is well. */
export function oldWords(ageMs: number | undefined): string {
  if (ageMs === undefined || ageMs <= OLD_MS) return '';
  return `This picture is ${Math.round(ageMs / 1000)} seconds old. Your input waits until it is fresh again.`;
}

/** In plain words what limits the picture just now. */
export function limitWords(
  source: Extract<PictureMessage, { type: 'sourceNow' }> | undefined,
  roundTripMs: number,
  now: PictureNow | undefined,
): string {
  if (source?.limit === 'their-line') return 'Their line is the limit';
  if (source?.limit === 'their-computer') return 'Their computer is the limit';
  if (now?.ageMs !== undefined && now.ageMs > OLD_MS) return 'Your line is the limit';
  if (roundTripMs > SLOW_OWN_LINE_MS) return 'Your line is slow';
  if (source?.limit === 'chosen') return 'What you chose is the limit';
  return 'Nothing limits it';
}

/** Bits in a second, as people read them. */
export function rateWords(bitsPerSecond: number): string {
  if (bitsPerSecond < 1_000) return `${Math.round(bitsPerSecond)} bit/s`;
  if (bitsPerSecond < 1_000_000) return `${Math.round(bitsPerSecond / 1_000)} kbit/s`;
  return `${(bitsPerSecond / 1_000_000).toFixed(1)} Mbit/s`;
}
