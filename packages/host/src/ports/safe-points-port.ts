import type { LeftAsItIs, PointDifference, PointTouches, SafePoint } from '@porch/core';

/** Why a safe point is not made, in words that a technician reads. */
export class PointRefused extends Error {
  override readonly name = 'PointRefused';
}

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
  /** Takes everything back that is other than it was. `may` is asked in each tick that changes something. */
  undo(
    pointId: string,
    may: () => boolean,
    signal: AbortSignal,
  ): Promise<{ readonly count: number; readonly left: readonly LeftAsItIs[] }>;
  /** What it is called, and what it holds. */
  touchesOf(pointId: string): Promise<{ readonly name: string; readonly touches: PointTouches }>;
  keep(pointId: string, untilMs: number): Promise<void>;
  drop(pointId: string): Promise<void>;
  /** At the end: those that nobody lets stay go. */
  dropUnkept(): Promise<void>;
}
