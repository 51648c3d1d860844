import type { SessionEvent } from '../session/session-events.ts';

/** One line of the ledger, read back: when, and what happened. Personal parts are missing once erased. */
export interface LedgerEntry {
  readonly seq: number;
  readonly atMs: number;
  readonly event: SessionEvent;
  /** Hex; with `seq` it is a head that a participant may keep. */
  readonly hash: string;
}
