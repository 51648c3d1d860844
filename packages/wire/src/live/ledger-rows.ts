import { EVENT_VERSION, isKnownEvent, SessionEvent, type LedgerEntry, type LedgerRow } from '@porch/core';
import { bytesToHex, hexToBytes } from '@noble/hashes/utils.js';
import { z } from 'zod';
import { AppError } from '../errors.ts';
import type { LedgerRowMessage } from './live-messages.ts';

/* How an event becomes the two byte strings of a ledger row, and back. */

const Said = z.looseObject({ type: z.string().max(80), by: z.string() });
const Header = z.object({ v: z.int(), seq: z.int(), atMs: z.number(), sessionId: z.string() }).loose();

/** The header carries everything that state depends on; the body what a person may have erased. */
export function splitEvent(event: SessionEvent, seq: number, atMs: number, sessionId: string) {
  const { personal, ...rest } = event as SessionEvent & { personal?: object };
  return { header: { v: EVENT_VERSION, sessionId, seq, atMs, ...rest }, body: personal ?? {} };
}

/**
 * Reads a row. An event of a type that this release does not know becomes `notUnderstood`: the row's own bytes stay what
 * they are. Throws MESSAGE_INVALID when the bytes are no event of a version we know.
 */
export function readLedgerRow(row: LedgerRow): LedgerEntry {
  try {
    const {
      v,
      seq,
      atMs,
      sessionId: _session,
      ...rest
    } = Header.parse(JSON.parse(new TextDecoder().decode(row.header)));
    if (v !== EVENT_VERSION) throw new AppError('PROTOCOL_VERSION', { eventVersion: v });
    const body: unknown = row.body ? JSON.parse(new TextDecoder().decode(row.body)) : {};
    const hasPersonal = typeof body === 'object' && body !== null && Object.keys(body).length > 0;
    const said = Said.parse(rest);
    const event = isKnownEvent(said.type)
      ? SessionEvent.parse(hasPersonal ? { ...rest, personal: body } : rest)
      : SessionEvent.parse({ type: 'notUnderstood', by: said.by, what: said.type });
    return { seq, atMs, event, hash: bytesToHex(row.hash) };
  } catch (cause) {
    throw cause instanceof AppError ? cause : new AppError('MESSAGE_INVALID', {}, { cause });
  }
}

/** For who may not read the personal part: to them it is as good as erased, and the chain still holds. */
export const withholdPersonal = (row: LedgerRow): LedgerRow => ({ ...row, salt: undefined, body: undefined });

export function encodeLedgerRow(row: LedgerRow): LedgerRowMessage {
  return {
    seq: row.seq,
    header: bytesToBase64(row.header),
    ...(row.salt && row.body ? { salt: bytesToBase64(row.salt), body: bytesToBase64(row.body) } : {}),
    bodyHash: bytesToHex(row.bodyHash),
    hash: bytesToHex(row.hash),
  };
}

export function decodeLedgerRow(message: LedgerRowMessage): LedgerRow {
  try {
    return {
      seq: message.seq,
      header: base64ToBytes(message.header),
      salt: message.salt === undefined ? undefined : base64ToBytes(message.salt),
      body: message.body === undefined ? undefined : base64ToBytes(message.body),
      bodyHash: hexToBytes(message.bodyHash),
      hash: hexToBytes(message.hash),
    };
  } catch (cause) {
    throw new AppError('MESSAGE_INVALID', {}, { cause });
  }
}

export function bytesToBase64(bytes: Uint8Array): string {
  let binary = '';
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
}

export function base64ToBytes(text: string): Uint8Array {
  return Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
}
