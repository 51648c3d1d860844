/** Lets `perSecond` through on average and `burst` at once. The clock is handed in. */
export class TokenBucket {
  readonly #perSecond: number;
  readonly #burst: number;
  readonly #now: () => number;
  #tokens: number;
  #atMs: number;

  constructor(perSecond: number, burst: number, now: () => number = () => performance.now()) {
    this.#perSecond = perSecond;
    this.#burst = burst;
    this.#now = now;
    this.#tokens = burst;
    this.#atMs = now();
  }

  /** False when there are not as many tokens left. */
  take(count = 1): boolean {
    const nowMs = this.#now();
    this.#tokens = Math.min(this.#burst, this.#tokens + ((nowMs - this.#atMs) / 1000) * this.#perSecond);
    this.#atMs = nowMs;
    if (this.#tokens < count) return false;
    this.#tokens -= count;
    return true;
  }
}
