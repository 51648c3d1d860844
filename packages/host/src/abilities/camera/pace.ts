/** The longer side of a moving picture, in pixels. */
const STEPS = [320, 480, 640, 960, 1280] as const;
const FIRST_STEP = 2;
/** So much longer than the shortest way that one took lately means that the line has more than it brings. */
const SLOW_MS = 400;
const FAST_MS = 120;
/** And this is too long to point a camera by, whatever the line is like. */
const TOO_LONG_MS = 1_500;
const LEAST_GOOD = 8;
const MOST_GOOD = 256;
const MEMORY = 64;

/**
 * How large the moving pictures are: by how long each is on its way. Larger ones are tried after some that were fast, and
 * after twice as many each time that was wrong.
 */
export class CameraPace {
  #step: number = FIRST_STEP;
  #good = 0;
  #goodNeeded = LEAST_GOOD;
  #tookMs: number[] = [];

  get longestPixels(): number {
    return STEPS[this.#step] ?? STEPS[0];
  }

  /** One of this size has arrived, so long after it was sent. What was sent in another size says nothing of this one. */
  arrived(longestPixels: number, tookMs: number): void {
    this.#tookMs = [...this.#tookMs.slice(1 - MEMORY), tookMs];
    if (longestPixels !== this.longestPixels) return;
    const more = tookMs - Math.min(...this.#tookMs);
    if (more > SLOW_MS || tookMs > TOO_LONG_MS) this.#smaller();
    else if (more < FAST_MS) this.#good++;
    else this.#good = 0;
    if (this.#good < this.#goodNeeded || this.#step === STEPS.length - 1) return;
    this.#step++;
    this.#good = 0;
  }

  /** Whatever the line is like. */
  tooLarge(): void {
    this.#smaller();
  }

  #smaller(): void {
    this.#good = 0;
    if (this.#step === 0) return;
    this.#step--;
    this.#goodNeeded = Math.min(MOST_GOOD, this.#goodNeeded * 2);
  }
}
