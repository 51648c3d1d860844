import type { ProgramAct, ProgramList, ProgramOutcome, ProgramRow } from '@porch/core';

/** One list, read again and again by somebody who looks at it: what changes between two readings is known to it. */
export interface ProgramReading<L extends ProgramList = ProgramList> {
  /** All rows as they are now. Rejects with PartMissing. Whatever was started for it ends with `signal`. */
  read(signal: AbortSignal): Promise<readonly ProgramRow<L>[]>;
  /** What was read last is not all there is to say of these rows: the rest takes longer, and is read at once. */
  readonly isHalf?: boolean;
}

/** How an act ended, and what the computer says of it in its own words. */
export interface ActEnded {
  readonly outcome: ProgramOutcome;
  readonly says: string;
}

/** What an act would hit. */
export interface ActPlan {
  readonly name: string;
  /** Why it is not done from here, whoever may what. */
  readonly guard?: 'ours' | 'needed';
  /** Who stops working with it. */
  readonly hanging: readonly string[];
  /** Services that it changes, as their list names them. */
  readonly services: readonly string[];
  /** What starts it again by itself when it is wanted. */
  readonly wakers: readonly string[];
  /**
   * Does it. `may` is asked in the very tick that acts; what was started for it ends with `signal`.
   */
  act(may: () => boolean, signal: AbortSignal): Promise<ActEnded>;
}

/** What runs, is installed and waits on this computer. */
export interface ProgramsPort {
  open(list: ProgramList): ProgramReading;
  /** Rejects with PartMissing when there is no such process or service. */
  plan(act: ProgramAct, target: string, signal: AbortSignal): Promise<ActPlan>;
}
