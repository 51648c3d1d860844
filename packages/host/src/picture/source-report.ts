import type { PictureBounds, PictureMessage, SourceLimit } from '@porch/wire';

/** A line that had no room this often in a second is what limits the picture. */
const STARVED_OFTEN = 4;
/** More work than this in a second, and the computer is. */
const MUCH_WORK_MS = 600;
/** As many pictures a second as anybody can ask for. */
const FASTEST = 60;

type SourceNow = Extract<PictureMessage, { type: 'sourceNow' }>;

/** What the source did in the last second, and what limits it: told to technicians when it changes. */
export class SourceReport {
  #captures = 0;
  #workMs = 0;
  #starved = 0;
  #told = '';

  noteCapture(): void {
    this.#captures++;
  }
  noteWork(ms: number): void {
    this.#workMs += ms;
  }
  noteStarved(): void {
    this.#starved++;
  }

  /** Begins the next second. Undefined while it is as it was: an idle session costs next to nothing. */
  next(
    { mostFramesPerSecond }: PictureBounds,
    line: { readonly bytesPerSecond: number },
    hasWallpaperHidden: boolean,
  ): SourceNow | undefined {
    const now: SourceNow = {
      type: 'sourceNow',
      limit: this.#limit(mostFramesPerSecond),
      lineBytesPerSecond: Math.round(line.bytesPerSecond),
      capturesPerSecond: this.#captures,
      hasWallpaperHidden,
    };
    this.#captures = 0;
    this.#workMs = 0;
    this.#starved = 0;
    const key = JSON.stringify({ ...now, lineBytesPerSecond: 0 });
    if (key === this.#told) return undefined;
    this.#told = key;
    return now;
  }

  #limit(mostFramesPerSecond: number): SourceLimit {
    if (this.#starved > STARVED_OFTEN) return 'their-line';
    if (this.#workMs > MUCH_WORK_MS) return 'their-computer';
    return mostFramesPerSecond < FASTEST && this.#captures >= mostFramesPerSecond ? 'chosen' : 'nothing';
  }
}
