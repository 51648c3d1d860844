import { AppError } from '../errors.ts';

/*
 * What the source says once a second, sealed like the picture: where it is, and that it heard from each viewer.
 *
 *   | table id u32 | has table u8 | echoes u8 | each: seat u16, nonce 8 bytes | table of versions … |
 *
 * The table is left out while it is the same as the last one sent, which its id tells.
 */
export interface Echo {
  readonly seat: number;
  /** 16 hex digits: the viewer's last challenge. */
  readonly nonce: string;
}
export interface Checkpoint {
  readonly tableId: number;
  readonly table: Uint8Array | undefined;
  readonly echoes: readonly Echo[];
}

const ECHO_BYTES = 10;

export function encodeCheckpoint({ tableId, table, echoes }: Checkpoint): Uint8Array {
  const out = new Uint8Array(6 + echoes.length * ECHO_BYTES + (table?.length ?? 0));
  const view = new DataView(out.buffer);
  view.setUint32(0, tableId);
  view.setUint8(4, table ? 1 : 0);
  view.setUint8(5, echoes.length);
  echoes.forEach(({ seat, nonce }, i) => {
    view.setUint16(6 + i * ECHO_BYTES, seat);
    view.setBigUint64(8 + i * ECHO_BYTES, BigInt(`0x${nonce}`));
  });
  if (table) out.set(table, 6 + echoes.length * ECHO_BYTES);
  return out;
}

export function decodeCheckpoint(bytes: Uint8Array): Checkpoint {
  if (bytes.length < 6) throw new AppError('MESSAGE_INVALID');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const count = view.getUint8(5);
  const tableAt = 6 + count * ECHO_BYTES;
  if (bytes.length < tableAt) throw new AppError('MESSAGE_INVALID');
  const echoes = Array.from({ length: count }, (_, i) => ({
    seat: view.getUint16(6 + i * ECHO_BYTES),
    nonce: view
      .getBigUint64(8 + i * ECHO_BYTES)
      .toString(16)
      .padStart(16, '0'),
  }));
  return { tableId: view.getUint32(0), table: view.getUint8(4) ? bytes.subarray(tableAt) : undefined, echoes };
}
