import type { LedgerEntry, SessionState } from '@porch/core';

/** What a session's ledger grew by, and what was true before and after. */
export interface SessionChange {
  readonly sessionId: string;
  /** When the session was prepared: never changes, so lists are in its order. */
  readonly preparedAtMs: number;
  readonly before: SessionState;
  readonly entries: readonly LedgerEntry[];
  readonly after: SessionState;
}

/** One statement of SQL with its values. */
export interface Statement {
  readonly sql: string;
  readonly values: readonly unknown[];
}

/**
 * What is kept beside ledgers so that it can be looked up. `apply` says what a change writes; a whole ledger at once, after
 * `clear`, comes to the same as entry by entry: so it can be made anew at any time. Both only say what is to be done.
 */
export interface Projection {
  /** What it is called where somebody is told that it is behind. Another meaning is another name. */
  readonly name: string;
  apply(change: SessionChange): readonly Statement[];
  clear(sessionId: string): readonly Statement[];
}
