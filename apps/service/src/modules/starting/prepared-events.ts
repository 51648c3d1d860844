import { NO_PURPOSE, type SessionEvent } from '@porch/core';
import type { TicketView } from '@porch/wire';
import type { Device } from '../devices/device-desk.ts';
import type { WaitingEntry } from '../queue/queue-desk.ts';
import { labelOf } from '../tickets/label-of.ts';
import type { Technician } from '../people/technician.ts';

/** The first entries of a session: who prepared it and what stands behind it; and, apart, whom it is for. */
export function preparedEvents(
  me: Technician,
  ticket: TicketView | undefined,
  ref: string | undefined,
  entry: WaitingEntry | null,
  saidBefore: { atMs: number; name: string; text: string }[],
  device: Device | undefined,
): SessionEvent[] {
  // A ticket that could not be read says nothing about its requester: then nothing of the customer's stands behind.
  const behind = entry ? 'queue-entry' : ticket?.requester.address ? 'ticket' : device ? 'device' : 'nothing';
  // A ticket system that is reached by mail tells nobody's name.
  const customerName = (device?.customerName ?? entry?.name ?? ticket?.requester.name) || undefined;
  const customerAddress = (device?.customerAddress ?? entry?.address ?? ticket?.requester.address) || undefined;
  const asset = device?.name ?? ticket?.asset;
  const prepared: SessionEvent = {
    type: 'sessionPrepared',
    by: `technician:${me.id}`,
    technicianId: me.id,
    behind,
    ...(entry ? { language: entry.language, isConfirmed: entry.isConfirmed } : {}),
    ...(device ? { deviceId: device.id, language: device.language } : {}),
    ...labelOf(ticket),
    ...(ref ? { ticketRef: ticket?.ref ?? ref } : {}),
    personal: {
      technicianName: me.name,
      purpose: entry
        ? `${entry.topic}: ${entry.description}`.slice(0, 300)
        : (ticket?.title ?? (ref ? `Ticket ${ref}, which cannot be read just now` : NO_PURPOSE)),
      ...(entry ? { customerPurpose: entry.description.slice(0, 300) } : ref && !ticket ? { customerPurpose: '' } : {}),
      ...(asset ? { asset } : {}),
    },
  };
  const personal = {
    ...(customerName ? { customerName } : {}),
    ...(customerAddress ? { customerAddress } : {}),
    ...(saidBefore.length ? { saidBefore } : {}),
  };
  if (!Object.keys(personal).length) return [prepared];
  return [prepared, { type: 'customerExpected', by: `technician:${me.id}`, personal }];
}
