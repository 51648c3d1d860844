import type { LedgerEntry, LedgerRow, SessionEvent, SessionState } from '@porch/core';
import type { AsideMessage } from '@porch/wire';

/** A session as decisions need it: what is true after so many entries. */
export interface SessionMoment {
  readonly id: string;
  readonly seq: number;
  readonly state: SessionState;
}

/** One session as this process knows it whole: exactly what the records hold, or older while a write is under way. */
export interface OpenSession extends SessionMoment {
  readonly entries: readonly LedgerEntry[];
  readonly rows: readonly LedgerRow[];
  readonly asides: readonly AsideMessage[];
  readonly asideRows: readonly LedgerRow[];
}

/** What was written to a session and has not been told yet. */
export interface Appended {
  readonly sessionId: string;
  /** Missing for one that nobody here has open. */
  readonly session: OpenSession | undefined;
  readonly events: readonly SessionEvent[];
}
