import { estimateWait, meanWithPrior, type PolicyFor, type WaitingEstimate } from '@porch/core';
import type { DataSource } from 'typeorm';
import type { SessionLists } from '../sessions/session-lists.ts';
import type { TechnicianStates } from './technician-states.ts';

/** Before anything was measured: a session takes so long, and somebody waits so long before they give up. */
const MINUTE_MS = 60_000;
const USUAL_HELP_MS = 12 * MINUTE_MS;
const USUAL_PATIENCE_MS = 30 * MINUTE_MS;
const PRIOR_WEIGHT = 5;
const LOOK_BACK = 50;
/** An estimate is in minutes: what it stands on is read so often at most. */
const SAME_FOR_MS = 500;

export interface WaitingEstimatesParts {
  readonly records: DataSource;
  readonly policyFor: PolicyFor;
  readonly states: TechnicianStates;
  readonly lists: SessionLists;
}

type Basis = Omit<Parameters<typeof estimateWait>[0], 'ahead'>;

/** How long somebody will wait, from how long others did. */
export class WaitingEstimates {
  readonly #parts: WaitingEstimatesParts;
  #known: { readonly atMs: number; readonly basis: Promise<Basis> } | undefined;

  constructor(parts: WaitingEstimatesParts) {
    this.#parts = parts;
  }

  /** For somebody with so many ahead of them; undefined while nothing can be said. */
  async after(ahead: number): Promise<WaitingEstimate | undefined> {
    return estimateWait({ ahead, ...(await this.#now()) });
  }

  /** Somebody came, went or has other work: what was read is old. */
  forget(): void {
    this.#known = undefined;
  }

  /** The same for all who ask at once: many do. */
  #now(): Promise<Basis> {
    const nowMs = Date.now();
    if (!this.#known || nowMs - this.#known.atMs > SAME_FOR_MS) {
      const basis = this.#read();
      this.#known = { atMs: nowMs, basis };
      // Whoever asks next tries anew.
      basis.catch(() => (this.#known = undefined));
    }
    return this.#known.basis;
  }

  async #read(): Promise<Basis> {
    const { records, policyFor, states, lists } = this.#parts;
    const policy = policyFor();
    const here = (await states.all()).filter((t) => t.isHere);
    const [help, patience] = await Promise.all([
      lists.lastMinutes(LOOK_BACK),
      // Who was helped did not give up in all that time: waiting time in all, over how often somebody gave up.
      records.query<{ waited: string | null; gave: string }[]>(
        `SELECT sum(extract(epoch FROM "closed_at" - "since")) * 1000 AS waited, count(*) FILTER (WHERE "state" = 'left') AS gave
           FROM (SELECT * FROM "queue_entry" WHERE "closed_at" IS NOT NULL ORDER BY "closed_at" DESC LIMIT $1) q`,
        [4 * LOOK_BACK],
      ),
    ]);
    const gave = Number(patience[0]?.gave ?? 0);
    const waited = Number(patience[0]?.waited ?? 0);
    const helpMs = help.map((minutes) => minutes * MINUTE_MS);
    return {
      places: here.reduce((sum, t) => sum + t.limits.screens, 0),
      freePlaces: here.reduce((sum, t) => sum + Math.max(0, t.limits.screens - t.screens), 0),
      meanHelpMs: meanWithPrior(helpMs, USUAL_HELP_MS, PRIOR_WEIGHT) + policy.wrapUpMs,
      meanPatienceMs: (waited + USUAL_PATIENCE_MS * PRIOR_WEIGHT) / (gave + PRIOR_WEIGHT),
      offerMs: policy.routing.offerMs,
    };
  }
}
