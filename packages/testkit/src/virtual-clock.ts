import type { Clock } from '@porch/wire';

/** Time that goes on when a test says so. */
export class VirtualClock implements Clock {
  #nowMs = 1_000;
  readonly #due = new Set<{ atMs: number; everyMs: number | undefined; run: () => void }>();

  nowMs = (): number => this.#nowMs;
  wallMs = (): number => this.#nowMs;
  after = (waitMs: number, run: () => void): (() => void) => this.#add(waitMs, undefined, run);
  every = (gapMs: number, run: () => void): (() => void) => this.#add(gapMs, gapMs, run);

  /** How many timers wait. */
  get pending(): number {
    return this.#due.size;
  }

  advance(ms: number): void {
    const untilMs = this.#nowMs + ms;
    for (;;) {
      const next = [...this.#due].filter(({ atMs }) => atMs <= untilMs).sort((a, b) => a.atMs - b.atMs)[0];
      if (!next) break;
      this.#nowMs = Math.max(this.#nowMs, next.atMs);
      if (next.everyMs === undefined) this.#due.delete(next);
      else next.atMs += next.everyMs;
      next.run();
    }
    this.#nowMs = untilMs;
  }

  #add(waitMs: number, everyMs: number | undefined, run: () => void): () => void {
    const one = { atMs: this.#nowMs + Math.max(0, waitMs), everyMs, run };
    this.#due.add(one);
    return () => this.#due.delete(one);
  }
}
