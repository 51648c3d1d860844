import { randomBytes } from 'node:crypto';
import { appendRow, SALT_BYTES, type LedgerRow, type SessionEvent } from '@porch/core';
import { splitEvent } from '@porch/wire';
import type { EntityManager } from 'typeorm';
import { LedgerRowEntity, type LedgerRowRow } from './session-tables.ts';

export const toLedgerRow = (row: LedgerRowRow): LedgerRow => ({
  seq: row.seq,
  header: row.header,
  salt: row.salt ?? undefined,
  body: row.body ?? undefined,
  bodyHash: row.bodyHash,
  hash: row.hash,
});

export async function readRows(
  tx: EntityManager,
  sessionId: string,
  chain: 'session' | 'aside',
  afterSeq = 0,
): Promise<LedgerRow[]> {
  const rows = await tx
    .getRepository(LedgerRowEntity)
    .createQueryBuilder('r')
    .where('r."session_id" = :sessionId AND r."chain" = :chain AND r."seq" > :afterSeq', { sessionId, chain, afterSeq })
    .orderBy('r.seq')
    .getMany();
  return rows.map(toLedgerRow);
}

/** Appends events behind the given head. The caller holds the session's lock, so that nobody else can. */
export async function appendEvents(
  tx: EntityManager,
  sessionId: string,
  head: { seq: number; hash: Uint8Array },
  events: readonly SessionEvent[],
  nowMs: number,
): Promise<LedgerRow[]> {
  let { seq, hash } = head;
  const rows = events.map((event) => {
    const { header, body } = splitEvent(event, ++seq, nowMs, sessionId);
    const row = appendRow(hash, seq, header, body, randomBytes(SALT_BYTES));
    hash = row.hash;
    return row;
  });
  await insertRows(tx, sessionId, 'session', rows);
  return rows;
}

export async function insertRows(
  tx: EntityManager,
  sessionId: string,
  chain: 'session' | 'aside',
  rows: readonly LedgerRow[],
): Promise<void> {
  if (!rows.length) return;
  await tx.getRepository(LedgerRowEntity).insert(
    rows.map((row) => ({
      sessionId,
      chain,
      seq: row.seq,
      header: Buffer.from(row.header),
      salt: row.salt ? Buffer.from(row.salt) : null,
      body: row.body ? Buffer.from(row.body) : null,
      bodyHash: Buffer.from(row.bodyHash),
      hash: Buffer.from(row.hash),
    })),
  );
}
