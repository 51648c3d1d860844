import type { LeftAsItIs, PointDifference, PointTouches, RightsBack, SafePoint } from '@porch/core';

/** Why a safe point is not made, in words that a technician reads. */
export class PointRefused extends Error {
  override readonly name = 'PointRefused';
}

export interface WentBackHere {
  readonly count: number;
  readonly left: readonly LeftAsItIs[];
  /** Why nothing was done by administrator rights. */
  readonly why?: string;
}
/** Answers why nothing was done, in words that a technician reads; undefined once it was. */
export type ByRights = (back: RightsBack) => Promise<string | undefined>;

/** Safe points on this computer. What is begun ends with its signal, and leaves no half of a point behind. */
export interface SafePointsPort {
  /** Rejects with PointRefused for what may not be in one, or has no room. */
  make(
    about: { readonly name: string; readonly touches: PointTouches; readonly mostBytes: number },
    signal: AbortSignal,
    tell: (files: number, sizeBytes: number) => void,
  ): Promise<SafePoint>;
  list(): Promise<SafePoint[]>;
  /** Rejects with PointRefused when there is none of that name. */
  compare(pointId: string, signal: AbortSignal): Promise<PointDifference[]>;
  /** What of going back only an administrator may. Rejects with PointRefused where that is more than is ever put back. */
  rightsFor(pointId: string, signal: AbortSignal): Promise<RightsBack>;
  /**
   * Takes everything back that is other than it was. `may` is asked in each tick that changes something; `byRights` does what
   * only an administrator may, where somebody has such rights.
   */
  undo(
    pointId: string,
    how: { may(): boolean; readonly signal: AbortSignal; readonly byRights?: ByRights | undefined },
  ): Promise<WentBackHere>;
  /** What it is called, and what it holds. */
  touchesOf(pointId: string): Promise<{ readonly name: string; readonly touches: PointTouches }>;
  keep(pointId: string, untilMs: number): Promise<void>;
  drop(pointId: string): Promise<void>;
  /** At the end: those that nobody lets stay go. */
  dropUnkept(): Promise<void>;
}
