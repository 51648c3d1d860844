import { EntitySchema } from 'typeorm';

/** A known fault, said on the request page before anybody types. */
export interface KnownFaultRow {
  id: string;
  topic: string;
  text: string;
  ticketRef: string | null;
  technicianId: string;
  happensToCount: number;
  at: Date;
  endedAt: Date | null;
}
export const KnownFaultEntity = new EntitySchema<KnownFaultRow>({
  name: 'known_fault',
  columns: {
    id: { type: 'uuid', primary: true },
    topic: { type: 'text' },
    text: { type: 'text' },
    ticketRef: { type: 'text', name: 'ticket_ref', nullable: true },
    technicianId: { type: 'text', name: 'technician_id' },
    happensToCount: { type: 'int', name: 'happens_to_count' },
    at: { type: 'timestamptz' },
    endedAt: { type: 'timestamptz', name: 'ended_at', nullable: true },
  },
});
