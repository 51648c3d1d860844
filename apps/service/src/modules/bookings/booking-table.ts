import type { Language } from '@porch/core';
import { EntitySchema } from 'typeorm';

export interface BookingRow {
  id: string;
  sessionId: string;
  invitationId: string;
  technicianId: string;
  customerName: string;
  address: string;
  telephone: string | null;
  language: Language;
  purpose: string;
  remark: string;
  startsAt: Date;
  minutes: number;
  /** The customer's: what they are told is meant there. */
  timeZone: string;
  sequence: number;
  isCancelled: boolean;
  remindMinutes: number[];
  reminded: number[];
}
export const BookingEntity = new EntitySchema<BookingRow>({
  name: 'booking',
  columns: {
    id: { type: 'uuid', primary: true },
    sessionId: { type: 'uuid', name: 'session_id' },
    invitationId: { type: 'uuid', name: 'invitation_id' },
    technicianId: { type: 'text', name: 'technician_id' },
    customerName: { type: 'text', name: 'customer_name' },
    address: { type: 'text' },
    telephone: { type: 'text', nullable: true },
    language: { type: 'text' },
    purpose: { type: 'text' },
    remark: { type: 'text' },
    startsAt: { type: 'timestamptz', name: 'starts_at' },
    minutes: { type: 'int' },
    timeZone: { type: 'text', name: 'time_zone' },
    sequence: { type: 'int' },
    isCancelled: { type: 'boolean', name: 'is_cancelled' },
    remindMinutes: { type: 'int', array: true, name: 'remind_minutes' },
    reminded: { type: 'int', array: true },
  },
  indices: [{ name: 'booking_starts_at', columns: ['startsAt'] }],
});
