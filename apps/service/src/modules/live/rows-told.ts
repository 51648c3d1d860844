import { mayReadPersonal, UNKNOWN_PART, type Reader } from '@porch/core';
import { encodeLedgerRow, withholdPersonal } from '@porch/wire';
import type { OpenSession } from '../../module/open-session.ts';

/** The entries behind `afterSeq`, as this participant may read them: what is personal and not theirs is withheld. */
export function rowsTold({ rows, entries, state }: OpenSession, participantId: string, afterSeq: number) {
  const reader: Reader = state.participants[participantId] ?? {
    id: participantId,
    part: UNKNOWN_PART,
    proof: undefined,
  };
  return rows.slice(afterSeq).map((row, i) => {
    const event = entries[afterSeq + i]?.event;
    return encodeLedgerRow(event && mayReadPersonal(event, reader) ? row : withholdPersonal(row));
  });
}
