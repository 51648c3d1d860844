import type { LedgerEntry, LedgerRow, SessionEvent, SessionState } from '@porch/core';
import type { AsideMessage } from '@porch/wire';

/** One session as this process knows it: exactly what the records hold, or older while a write is under way. */
export interface OpenSession {
  readonly id: string;
  state: SessionState;
  entries: LedgerEntry[];
  rows: LedgerRow[];
  asides: AsideMessage[];
  asideRows: LedgerRow[];
}

export interface Appended {
  readonly session: OpenSession;
  readonly rows: readonly LedgerRow[];
  readonly events: readonly SessionEvent[];
}
