import { OLD_MS } from '@porch/client';
import type { PictureMessage } from '@porch/wire';
import type { Speech } from '@porch/words';
import type { ConsoleWords } from '@porch/words/console/shape';
import type { StageScale } from './stage-geometry.ts';
import type { PictureNow } from './tool.ts';

/** A slow round trip of our own that one feels. */
const SLOW_OWN_LINE_MS = 250;

/** Whole seconds since anybody vouched for the picture, once that is too long ago; undefined while all is well. */
export const oldSeconds = (ageMs: number | undefined): number | undefined =>
  ageMs === undefined || ageMs <= OLD_MS ? undefined : Math.round(ageMs / 1000);

/** What limits the picture just now. */
export function limitOf(
  source: Extract<PictureMessage, { type: 'sourceNow' }> | undefined,
  roundTripMs: number,
  now: PictureNow | undefined,
): keyof ConsoleWords['picture']['limits'] {
  if (source?.limit === 'their-line' || source?.limit === 'their-computer') return source.limit;
  if (now?.ageMs !== undefined && now.ageMs > OLD_MS) return 'your-line';
  if (roundTripMs > SLOW_OWN_LINE_MS) return 'your-line-slow';
  return source?.limit === 'chosen' ? 'chosen' : 'nothing';
}

/** Bits in a second, as people read them. */
export function rateWords(bitsPerSecond: number, { number }: Pick<Speech, 'number'>): string {
  if (bitsPerSecond < 1_000) return `${number(Math.round(bitsPerSecond))} bit/s`;
  if (bitsPerSecond < 1_000_000) return `${number(Math.round(bitsPerSecond / 1_000))} kbit/s`;
  return `${number(Math.round(bitsPerSecond / 100_000) / 10)} Mbit/s`;
}

/** How large the picture is, as it is chosen. */
export function zoomLabel(
  scale: StageScale,
  { fit, original }: Pick<ConsoleWords['picture'], 'fit' | 'original'>,
  { percent }: Pick<Speech, 'percent'>,
): string {
  if (scale === 'fit') return fit;
  return scale === 1 ? original : percent(scale);
}
