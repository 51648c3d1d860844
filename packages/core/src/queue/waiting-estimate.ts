/**
 * How long somebody in the queue will wait.
 *
 * All c places are busy, each is free again after a mean time of 1/μ, and each of those who wait gives up at a rate θ.
 * Then the k-th departure that matters comes after 1/(cμ + kθ) in the mean, with the same standard deviation, and who
 * has n people before them waits
 *
 *     W(n) = Σ_{k=0..n} 1 / (cμ + kθ),     sd² = Σ_{k=0..n} 1 / (cμ + kθ)²
 *
 * W. Whitt, "Predicting Queueing Delays", Management Science 45 (6), 1999, section 3 (the M/M/c + M queue). Later
 * arrivals change nothing, since who waits longest is helped first. With a free place the wait is the time of an offer.
 */
export interface QueueNow {
  /** People before this one. */
  readonly ahead: number;
  /** Places of technicians who are here: their limits, summed. */
  readonly places: number;
  readonly freePlaces: number;
  readonly meanHelpMs: number;
  /** The mean time after which somebody gives up; Infinity: nobody does. */
  readonly meanPatienceMs: number;
  readonly offerMs: number;
}

export interface WaitingEstimate {
  readonly aboutMs: number;
  readonly fromMs: number;
  readonly toMs: number;
}

/** Undefined when nobody is here: then an honest answer has no number. */
export function estimateWait(now: QueueNow): WaitingEstimate | undefined {
  const { ahead, places, freePlaces, meanHelpMs, meanPatienceMs, offerMs } = now;
  if (places <= 0) return undefined;
  if (ahead < freePlaces) return { aboutMs: offerMs / 2, fromMs: 0, toMs: offerMs };
  const served = places / meanHelpMs;
  const gives = Number.isFinite(meanPatienceMs) ? 1 / meanPatienceMs : 0;
  let [mean, variance] = [0, 0];
  for (let k = 0; k <= ahead - freePlaces; k++) {
    const step = 1 / (served + k * gives);
    mean += step;
    variance += step * step;
  }
  const spread = Math.sqrt(variance);
  return { aboutMs: mean, fromMs: Math.max(0, mean - spread), toMs: mean + spread };
}

/** The mean of what was measured lately, leaning on a guess while there is little: `weight` measurements' worth. */
export function meanWithPrior(measuredMs: readonly number[], priorMs: number, weight: number): number {
  const sum = measuredMs.reduce((a, b) => a + b, 0);
  return (sum + priorMs * weight) / (measuredMs.length + weight);
}
