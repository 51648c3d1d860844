/** After a stroke, or after a key or a button, that is what goes on for this long. */
const GOES_ON_MS = 250;
/** Pictures of ink alone are this far apart. */
const INK_GAP_MS = 100;

/**
 * How often the picture is taken while somebody draws: whoever draws sees their strokes at once without it, and a pen that
 * does not rest would cost a picture for each of its points. As soon as anybody works it is taken as ever.
 */
export class InkPace {
  #drawnAtMs = -Infinity;
  #workedAtMs = -Infinity;

  drawn(nowMs: number): void {
    this.#drawnAtMs = nowMs;
  }
  worked(nowMs: number): void {
    this.#workedAtMs = nowMs;
  }
  gapMs(nowMs: number): number {
    const isWorking = nowMs - this.#workedAtMs < GOES_ON_MS;
    return nowMs - this.#drawnAtMs < GOES_ON_MS && !isWorking ? INK_GAP_MS : 0;
  }
}
