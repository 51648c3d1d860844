import type { Language } from '@porch/core';

/** Who works at the desk. */
export interface Technician {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly team: string;
  readonly role: 'technician' | 'trainee' | 'lead';
  readonly languages: readonly Language[];
  /** Topics they know; none: all. */
  readonly topics: readonly string[];
  /** What they know beyond that: some topics ask for it. */
  readonly skills: readonly string[];
  /** Since then they may not sign in, and nothing of theirs is open. */
  readonly disabledAt: Date | null;
}
export type Technicians = ReadonlyMap<string, Technician>;
