import type { Permission, RestartHit, RestartHow } from '@porch/core';

/** What comes back by itself after a restart: to these keys alone, and each no longer than it would have lasted. */
export interface ReturnAgreement {
  readonly signKey: string;
  readonly agreeKey: string;
  readonly permissions: readonly { readonly permission: Permission; readonly endsAtMs: number }[];
}

/** Something that a restart meets. `names`: what the person here is told of it, and nobody else. */
export interface HitFound {
  readonly hit: RestartHit;
  readonly count?: number;
  readonly names?: readonly string[];
}

export interface RestartOutlook {
  readonly hits: readonly HitFound[];
  /** How it can go down at all. */
  readonly hows: readonly RestartHow[];
  /** Whether the account could be signed in once, by itself. */
  readonly canSignIn: boolean;
}

/** It does not go down, in words that technicians read. */
export class RestartRefused extends Error {}

/** A computer that goes down and comes back, and this program with it. */
export interface RestartPort {
  readonly computer: string;
  readonly account: string;
  /** What this start of the program came back with; undefined when it did not come back. */
  readonly returned: ReturnAgreement | undefined;
  /** Rejects only when the signal ended it. */
  look(signal: AbortSignal): Promise<RestartOutlook>;
  /** Makes sure that this program comes back with it, over restarts and cuts of power. */
  keep(agreement: ReturnAgreement): Promise<void>;
  /** Resolves once the computer has taken the order. Rejects with RestartRefused. */
  goDown(how: RestartHow): Promise<void>;
  /** It did not: what was prepared for this restart alone is taken away. */
  stayUp(): void;
  /** Somebody else has it go down while this program is to come back. */
  onGoingDown(listener: () => void): () => void;
}
