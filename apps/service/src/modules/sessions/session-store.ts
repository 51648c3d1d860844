import { evolveSession, newSession, replay, type LedgerEntry, type SessionState } from '@porch/core';
import { AppError, readLedgerRow } from '@porch/wire';
import type { EntityManager } from 'typeorm';
import { lockRow } from '../../db/lock-row.ts';
import type { OpenSession, SessionMoment } from '../../module/open-session.ts';
import { readAside } from './read-aside.ts';
import { readRows } from './ledger-store.ts';
import { SessionEntity, type SessionRow } from './session-tables.ts';
import { SnapshotEntity } from './snapshot-table.ts';

/** So often what is true is written down, so that nobody need read more entries than this to go on. */
export const ENTRIES_A_SNAPSHOT = 100;

/** Nobody else changes this session until the transaction ends. Throws SESSION_NOT_FOUND. */
export async function lockSession(tx: EntityManager, id: string): Promise<SessionRow> {
  const row = await lockRow(tx, SessionEntity, id);
  if (!row) throw new AppError('SESSION_NOT_FOUND');
  return row;
}

/** Written by a later release: whoever cannot read it all decides nothing about it. */
function understood(state: SessionState): SessionState {
  if (state.notUnderstood.length) throw new AppError('PROTOCOL_VERSION', { events: state.notUnderstood });
  return state;
}

export async function readEntries(tx: EntityManager, id: string, afterSeq = 0): Promise<LedgerEntry[]> {
  return (await readRows(tx, id, 'session', afterSeq)).map(readLedgerRow);
}

/** Undefined when there is none. */
export async function readWhole(tx: EntityManager, id: string): Promise<OpenSession | undefined> {
  if (!(await tx.getRepository(SessionEntity).existsBy({ id }))) return undefined;
  const rows = await readRows(tx, id, 'session');
  const asideRows = await readRows(tx, id, 'aside');
  const entries = rows.map(readLedgerRow);
  const state = understood(replay(entries));
  return { id, seq: rows.length, rows, entries, state, asideRows, asides: asideRows.map(readAside) };
}

/** What is true now, from what this program wrote down last and the entries behind it. */
export async function readMoment(tx: EntityManager, id: string, program: string): Promise<SessionMoment> {
  const snapshot = await tx.getRepository(SnapshotEntity).findOneBy({ sessionId: id, program });
  const entries = await readEntries(tx, id, snapshot?.seq ?? 0);
  const from = snapshot ? (JSON.parse(snapshot.state) as SessionState) : newSession;
  const state = entries.reduce((s, { event, atMs }) => evolveSession(s, event, atMs), from);
  return { id, seq: (snapshot?.seq ?? 0) + entries.length, state: understood(state) };
}

/** Now and then, in the transaction that writes the entries. */
export async function keepSnapshot(
  tx: EntityManager,
  { id, seq, state }: SessionMoment,
  seqBefore: number,
  program: string,
): Promise<void> {
  if (Math.floor(seq / ENTRIES_A_SNAPSHOT) === Math.floor(seqBefore / ENTRIES_A_SNAPSHOT)) return;
  await tx
    .getRepository(SnapshotEntity)
    .upsert({ sessionId: id, seq, program, state: JSON.stringify(state) }, ['sessionId']);
}

/** It has names in it. */
export async function dropSnapshot(tx: EntityManager, sessionId: string): Promise<void> {
  await tx.getRepository(SnapshotEntity).delete({ sessionId });
}
