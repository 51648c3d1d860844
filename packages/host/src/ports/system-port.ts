import type { PartOf, ReportPart, WhyMissing } from '@porch/core';

/** A part that cannot be had, and why. */
export class PartMissing extends Error {
  override readonly name = 'PartMissing';
  readonly why: WhyMissing;

  constructor(why: WhyMissing) {
    super(why);
    this.why = why;
  }
}

/** What this computer says of itself. */
export interface SystemPort {
  /** What can be read here, the quick parts first. */
  readonly parts: readonly ReportPart[];
  /** Rejects with PartMissing. Whatever was started for it ends with `signal`. */
  read<P extends ReportPart>(part: P, signal: AbortSignal): Promise<PartOf<P>>;
}
