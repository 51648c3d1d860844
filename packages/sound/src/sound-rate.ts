/** Bits a second, from the best to the least. */
export type RateSteps = readonly [number, ...number[]];

/** What a listener heard of the last second. */
export interface HeardReport {
  readonly got: number;
  readonly lost: number;
  /** How much later than at its best it came. */
  readonly lateMs: number;
}

/** A twentieth missing is heard; a few at once are a stall and nothing to do with the rate. */
const MOST_LOST = 0.05;
const MOST_LATE_MS = 150;
/** So many good seconds before more is tried. */
const GOOD_SECONDS = 5;
/** Where even the least is too much nothing is sent for a while. */
const PAUSE_MS = 3_000;

/**
 * How many bits a second one listener's line carries of a sound. It goes down at once and up slowly; below the least there
 * is a pause, so that input and text have the line for themselves.
 */
export class SoundRate {
  readonly #steps: RateSteps;
  #step = 0;
  #good = 0;
  #pausedUntilMs = -Infinity;

  constructor(steps: RateSteps) {
    this.#steps = steps;
  }

  /** Undefined while nothing is to be sent. */
  at(nowMs: number): number | undefined {
    return nowMs < this.#pausedUntilMs ? undefined : this.#steps[this.#step];
  }

  take({ got, lost, lateMs }: HeardReport, nowMs: number): void {
    if (got + lost === 0 || nowMs < this.#pausedUntilMs) return;
    const isBad = lost > (got + lost) * MOST_LOST || lateMs > MOST_LATE_MS;
    if (!isBad) {
      if (++this.#good < GOOD_SECONDS) return;
      this.#good = 0;
      this.#step = Math.max(0, this.#step - 1);
      return;
    }
    this.#good = 0;
    if (this.#step < this.#steps.length - 1) this.#step++;
    else this.#pausedUntilMs = nowMs + PAUSE_MS;
  }
}
