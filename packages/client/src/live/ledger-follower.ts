import {
  bodyHashOf,
  evolveSession,
  isAbilitysEvent,
  linkHash,
  newSession,
  verifyChain,
  ZERO_HASH,
  type LedgerEntry,
  type SessionState,
} from '@porch/core';
import { bytesToHex } from '@noble/hashes/utils.js';
import { decodeLedgerRow, readLedgerRow } from '@porch/wire';

type RowMessage = Parameters<typeof decodeLedgerRow>[0];

/** The ledger told does not continue the one we know: somebody rewrote it, and that is the end of trusting it. */
export class LedgerForked extends Error {}
/** A later release wrote something that everybody has to understand. */
export class ProgramTooOld extends Error {}

/** One program's copy of a session's ledger: each row has to continue the one before, and makes the state what it is. */
export class LedgerFollower {
  readonly entries: LedgerEntry[] = [];
  state: SessionState = newSession;
  #headHash = ZERO_HASH;

  get head(): { seq: number; hash: string } {
    return { seq: this.entries.length, hash: bytesToHex(this.#headHash) };
  }

  /** Undefined for one that is known. Throws LedgerForked and ProgramTooOld. */
  take(message: RowMessage): LedgerEntry | undefined {
    const row = decodeLedgerRow(message);
    if (row.seq <= this.entries.length) return undefined;
    const isTrue =
      row.seq === this.entries.length + 1 &&
      bytesToHex(linkHash(this.#headHash, row.header, row.bodyHash)) === bytesToHex(row.hash) &&
      (!row.salt || !row.body || bytesToHex(bodyHashOf(row.salt, row.body)) === bytesToHex(row.bodyHash));
    if (!isTrue) throw new LedgerForked(`entry ${row.seq} does not continue the ledger this program has`);
    const entry = readLedgerRow(row);
    const { event } = entry;
    // What an ability that is not known here did is that ability's alone; the bytes stay in the chain.
    if (event.type === 'notUnderstood' && !isAbilitysEvent(event.what))
      throw new ProgramTooOld(`entry ${row.seq} is of a later release: ${event.what}`);
    this.#headHash = row.hash;
    this.entries.push(entry);
    this.state = evolveSession(this.state, event, entry.atMs);
    return entry;
  }
}

/** Checks rows as REST gives them against heads that were kept elsewhere. */
export function verifyRows(
  rows: readonly Parameters<typeof decodeLedgerRow>[0][],
  trusted: { seq: number; hash: string }[] = [],
) {
  return verifyChain(rows.map(decodeLedgerRow), trusted);
}
