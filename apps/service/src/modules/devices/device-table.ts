import type { Language, Permission } from '@porch/core';
import { EntitySchema } from 'typeorm';

/** A device with a standing consent: what the customer made at the device, as Doorstep told it. Its secret is not here. */
export interface DeviceRow {
  id: string;
  name: string;
  /** Hex, Ed25519: the device shows itself with it. */
  signKey: string;
  customerName: string;
  customerAddress: string;
  language: Language;
  allowed: Permission[];
  asksEachVisit: boolean;
  madeInSession: string;
  madeAt: Date;
  untilAt: Date;
  seenAt: Date | null;
  endedAt: Date | null;
  endedHow: 'at-the-device' | 'by-the-desk' | 'ran-out' | null;
}
export const DeviceEntity = new EntitySchema<DeviceRow>({
  name: 'device',
  columns: {
    id: { type: 'uuid', primary: true },
    name: { type: 'text' },
    signKey: { type: 'text', name: 'sign_key' },
    customerName: { type: 'text', name: 'customer_name' },
    customerAddress: { type: 'text', name: 'customer_address' },
    language: { type: 'text' },
    allowed: { type: 'text', array: true },
    asksEachVisit: { type: 'boolean', name: 'asks_each_visit' },
    madeInSession: { type: 'uuid', name: 'made_in_session' },
    madeAt: { type: 'timestamptz', name: 'made_at' },
    untilAt: { type: 'timestamptz', name: 'until_at' },
    seenAt: { type: 'timestamptz', name: 'seen_at', nullable: true },
    endedAt: { type: 'timestamptz', name: 'ended_at', nullable: true },
    endedHow: { type: 'text', name: 'ended_how', nullable: true },
  },
});
