/** Clock and timers as they are handed in; a test hands in its own. */
export interface Clock {
  /** Goes on evenly, whatever somebody does to the computer's clock. */
  nowMs(): number;
  /** The time of day, for what a person reads. */
  wallMs(): number;
  /** Hands back what takes it off again. */
  after(waitMs: number, run: () => void): () => void;
  every(gapMs: number, run: () => void): () => void;
}

/** setTimeout takes no more: what is further off is looked at again then. */
const MAX_TIMER_MS = 2 ** 31 - 1;

export const realClock: Clock = {
  nowMs: () => performance.now(),
  wallMs: () => Date.now(),
  after(waitMs, run) {
    const timer = setTimeout(run, Math.min(MAX_TIMER_MS, Math.max(0, waitMs)));
    return () => clearTimeout(timer);
  },
  every(gapMs, run) {
    const timer = setInterval(run, gapMs);
    return () => clearInterval(timer);
  },
};
