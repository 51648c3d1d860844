import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, concatBytes, utf8ToBytes } from '@noble/hashes/utils.js';

/*
 * The ledger is a chain over exact stored bytes:
 *
 *   hash(n) = H( hash(n-1) ‖ header(n) ‖ H( salt(n) ‖ body(n) ) )        H is SHA-256, hash(0) is 32 zero bytes
 *
 * Headers hold no personal data. Erasing deletes salt and body and leaves H(salt ‖ body): the chain still verifies.
 */
export interface LedgerRow {
  readonly seq: number;
  readonly header: Uint8Array;
  /** Undefined once erased; then `bodyHash` alone stands for it. */
  readonly salt: Uint8Array | undefined;
  readonly body: Uint8Array | undefined;
  readonly bodyHash: Uint8Array;
  readonly hash: Uint8Array;
}

export const ZERO_HASH: Uint8Array = new Uint8Array(32);
export const SALT_BYTES = 16;

export const bodyHashOf = (salt: Uint8Array, body: Uint8Array): Uint8Array => sha256(concatBytes(salt, body));
export const linkHash = (previous: Uint8Array, header: Uint8Array, bodyHash: Uint8Array): Uint8Array =>
  sha256(concatBytes(previous, header, bodyHash));

/** A row for the end of a chain. The header says its own place, so that rows cannot change theirs. */
export function appendRow(
  previous: Uint8Array,
  seq: number,
  header: object,
  body: object,
  salt: Uint8Array,
): LedgerRow {
  const headerBytes = utf8ToBytes(JSON.stringify(header));
  const bodyBytes = utf8ToBytes(JSON.stringify(body));
  const bodyHash = bodyHashOf(salt, bodyBytes);
  return { seq, header: headerBytes, salt, body: bodyBytes, bodyHash, hash: linkHash(previous, headerBytes, bodyHash) };
}

export type ChainFault = 'missing' | 'header changed' | 'body changed' | 'cut short' | 'other history';
export type ChainVerdict =
  | { readonly isWhole: true; readonly rows: number; readonly erased: number; readonly head: string }
  | { readonly isWhole: false; readonly atSeq: number; readonly fault: ChainFault };

const same = (a: Uint8Array, b: Uint8Array) => a.length === b.length && a.every((byte, i) => byte === b[i]);

/** A head that somebody other than the service has kept. */
export interface TrustedHead {
  readonly seq: number;
  readonly hash: string;
}

/**
 * Checks a whole chain. Without a trusted head only its own agreement is checked; with one, rewriting, cutting and
 * forking show too, since nobody can find other rows with the same head.
 */
export function verifyChain(rows: readonly LedgerRow[], trusted: readonly TrustedHead[] = []): ChainVerdict {
  let previous = ZERO_HASH;
  let erased = 0;
  for (const [index, row] of rows.entries()) {
    const seq = index + 1;
    if (row.seq !== seq) return { isWhole: false, atSeq: seq, fault: 'missing' };
    if (row.salt && row.body) {
      if (!same(bodyHashOf(row.salt, row.body), row.bodyHash))
        return { isWhole: false, atSeq: seq, fault: 'body changed' };
    } else erased++;
    if (!same(linkHash(previous, row.header, row.bodyHash), row.hash))
      return { isWhole: false, atSeq: seq, fault: 'header changed' };
    if (placeOf(row.header) !== seq) return { isWhole: false, atSeq: seq, fault: 'header changed' };
    previous = row.hash;
  }
  for (const head of trusted) {
    const row = rows[head.seq - 1];
    if (!row) return { isWhole: false, atSeq: rows.length + 1, fault: 'cut short' };
    if (bytesToHex(row.hash) !== head.hash) return { isWhole: false, atSeq: head.seq, fault: 'other history' };
  }
  return { isWhole: true, rows: rows.length, erased, head: bytesToHex(previous) };
}

function placeOf(header: Uint8Array): number | undefined {
  try {
    const parsed: unknown = JSON.parse(new TextDecoder().decode(header));
    return typeof parsed === 'object' && parsed !== null && 'seq' in parsed ? Number(parsed.seq) : undefined;
  } catch {
    // Bytes that are no JSON say no place: the caller reports the row as changed.
    return undefined;
  }
}
