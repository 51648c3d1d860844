import { EntitySchema } from 'typeorm';
import type { ParcelKind } from '../../module/parcels.ts';

export interface OutboxRow {
  id: string;
  sessionId: string;
  kind: ParcelKind;
  payload: Record<string, unknown>;
  attempts: number;
  nextAt: Date;
  deliveredAt: Date | null;
  /** When it was clear that it will never arrive. */
  givenUpAt: Date | null;
  lastError: string | null;
}
export const OutboxEntity = new EntitySchema<OutboxRow>({
  name: 'outbox',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    kind: { type: 'text' },
    payload: { type: 'jsonb' },
    attempts: { type: 'int' },
    nextAt: { type: 'timestamptz', name: 'next_at' },
    deliveredAt: { type: 'timestamptz', name: 'delivered_at', nullable: true },
    givenUpAt: { type: 'timestamptz', name: 'given_up_at', nullable: true },
    lastError: { type: 'text', name: 'last_error', nullable: true },
  },
  indices: [{ name: 'outbox_due', columns: ['nextAt'] }],
});
