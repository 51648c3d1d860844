import type { LedgerRow } from '@porch/core';
import type { AsideMessage } from '@porch/wire';

/** A row of the chain that customers never receive. */
export function readAside(row: LedgerRow): AsideMessage {
  const header = JSON.parse(new TextDecoder().decode(row.header)) as { atMs: number; by: string };
  const body = (row.body ? JSON.parse(new TextDecoder().decode(row.body)) : {}) as { name?: string; text?: string };
  return {
    seq: row.seq,
    atMs: header.atMs,
    technicianId: header.by.replace('technician:', ''),
    name: body.name ?? '(erased)',
    text: body.text ?? '(erased)',
  };
}
