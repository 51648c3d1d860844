import { evolveSession, newSession, type LedgerEntry, type LedgerRow, type SessionEvent } from '@porch/core';
import { readLedgerRow } from '@porch/wire';
import type { EntityManager } from 'typeorm';
import type { Alongside } from '../../module/added.ts';
import type { OpenSession, SessionMoment } from '../../module/open-session.ts';
import type { Projecting } from '../../module/projecting.ts';
import { appendEvents } from './ledger-store.ts';
import { dropSnapshot, keepSnapshot, readEntries, readWhole } from './session-store.ts';
import { summaryOf } from './session-summary.ts';
import { SessionEntity, type SessionRow } from './session-tables.ts';

export interface SessionWriterParts {
  readonly alongside: Alongside;
  readonly projecting: Projecting;
  /** Which program this is: what another one wrote down is not taken over. */
  readonly program: string;
}

/** What a change has written, and what is known of its session afterwards. */
export interface Written<S extends SessionMoment> {
  readonly session: S;
  readonly rows: readonly LedgerRow[];
  readonly events: readonly SessionEvent[];
}

/** Writes what was decided, in the transaction that holds the session's lock. */
export class SessionWriter {
  readonly #parts: SessionWriterParts;

  constructor(parts: SessionWriterParts) {
    this.#parts = parts;
  }

  /** Events, what is kept beside the ledger, and whatever commits alongside: all or nothing. The state in memory waits. */
  async append<S extends SessionMoment>(
    tx: EntityManager,
    row: SessionRow,
    session: S,
    events: readonly SessionEvent[],
    nowMs: number,
  ): Promise<Written<S>> {
    if (!events.length) return { session, rows: [], events };
    const { id } = row;
    const { projecting, alongside, program } = this.#parts;
    const rows = await appendEvents(tx, id, { seq: row.seq, hash: row.head }, events, nowMs);
    const added = rows.map(readLedgerRow);
    const seq = row.seq + rows.length;
    const isErasing = events.some(({ type }) => type === 'personErased');
    const isBehind = row.projectedSeq !== row.seq;
    // What was personal is gone from the entries that are there, too; or what is beside them was not written with them.
    const all = isErasing || isBehind ? await readEntries(tx, id) : undefined;
    const from = isErasing ? newSession : session.state;
    const state = (isErasing && all ? all : added).reduce((s, { event, atMs }) => evolveSession(s, event, atMs), from);
    const next = { ...session, id, seq, state };
    const about = { sessionId: id, preparedAtMs: row.preparedAt.getTime(), after: state };
    const behindIn = all
      ? await projecting.remake(tx, { ...about, before: newSession, entries: all })
      : await projecting.follow(tx, { ...about, before: session.state, entries: added }, row.behindIn);
    const head = Buffer.from(rows.at(-1)?.hash ?? row.head);
    await tx
      .getRepository(SessionEntity)
      .update({ id }, { seq, head, ...summaryOf(state, nowMs), projectedSeq: seq, behindIn });
    if (isErasing) await dropSnapshot(tx, id);
    else await keepSnapshot(tx, next, row.seq, program);
    await alongside(tx, next, events, nowMs);
    // Where those that were there have changed, it is as it stands in the records now.
    const known = isErasing ? { ...next, ...(await readWhole(tx, id)) } : grown(next, rows, added);
    return { session: known, rows, events };
  }
}

/** Whoever knows all of it knows what was added, too. */
const grown = <S extends SessionMoment>(session: S, rows: readonly LedgerRow[], entries: readonly LedgerEntry[]): S =>
  isWhole(session)
    ? { ...session, rows: [...session.rows, ...rows], entries: [...session.entries, ...entries] }
    : session;

export const isWhole = (session: SessionMoment): session is OpenSession => 'rows' in session;
