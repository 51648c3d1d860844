/** Lets `perSecond` through on average and `burst` at once. The clock is handed in. */
export class TokenBucket {
  readonly #perSecond: number;
  readonly #burst: number;
  readonly #now: () => number;
  #tokens: number;
  #atMs: number;

  constructor(perSecond: number, burst: number, now: () => number) {
    this.#perSecond = perSecond;
    this.#burst = burst;
    this.#now = now;
    this.#tokens = burst;
    this.#atMs = now();
  }

  /** False when there are not as many tokens left. */
  take(count = 1): boolean {
    this.#fill();
    if (this.#tokens < count) return false;
    this.#tokens -= count;
    return true;
  }

  /** Takes a token in any case, and says how long whoever took it is to wait: 0 while there are some. */
  takeAndWaitMs(): number {
    this.#fill();
    this.#tokens -= 1;
    return this.#tokens >= 0 ? 0 : (-this.#tokens / this.#perSecond) * 1000;
  }

  #fill(): void {
    const nowMs = this.#now();
    this.#tokens = Math.min(this.#burst, this.#tokens + ((nowMs - this.#atMs) / 1000) * this.#perSecond);
    this.#atMs = nowMs;
  }
}
