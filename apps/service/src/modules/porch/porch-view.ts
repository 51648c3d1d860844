import { allPermissions, mayAsk, type Policy } from '@porch/core';
import type { PorchView, SessionView } from '@porch/wire';
import type { z } from 'zod';
import type { BookingDesk } from '../bookings/booking-desk.ts';
import type { DeviceDesk } from '../devices/device-desk.ts';
import type { HandoverDesk } from '../handovers/handover-desk.ts';
import type { KnownFaultDesk } from '../known-faults/known-fault-desk.ts';
import type { MessageGateway } from '../messages/message-gateway.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { Technician } from '../people/technician.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import type { TechnicianStates } from '../queue/technician-states.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';

export interface PorchParts {
  readonly queue: QueueDesk;
  readonly states: TechnicianStates;
  readonly lists: SessionLists;
  readonly bookings: BookingDesk;
  readonly handovers: HandoverDesk;
  readonly knownFaults: KnownFaultDesk;
  readonly devices: DeviceDesk;
  readonly ticketLists: TicketLists;
  readonly outbox: Outbox;
  readonly gateway: MessageGateway;
  readonly policy: Pick<Policy, 'bundles' | 'askLimits'>;
}

/** The porch as it is for one technician now. */
export async function porchFor(me: Technician, parts: PorchParts): Promise<z.infer<typeof PorchView>> {
  const { queue, states, handovers, knownFaults, devices, bookings, ticketLists, outbox, gateway, policy } = parts;
  const [waiting, sessions, mine, offered, undelivered, state, known, booked, reachable] = await Promise.all([
    queue.waitingFor(me),
    openSessionsOf(me, parts),
    ticketLists.mine(me.email),
    handovers.offeredTo(me),
    outbox.undelivered(),
    states.mine(me.id),
    knownFaults.open(),
    bookings.of(me),
    devices.list(),
  ]);
  return {
    ways: { hasMail: gateway.hasMail, hasTexts: gateway.hasTexts },
    bundles: policy.bundles.map((b) => ({ name: b.name, permissions: [...b.permissions] })),
    me: state,
    mayNotAsk: allPermissions.filter((p) => !mayAsk(policy.askLimits, me, p)),
    knownFaults: known,
    bookings: booked,
    devices: reachable,
    waiting,
    sessions,
    tickets: mine.tickets,
    handovers: offered,
    ...(mine.trouble ? { ticketTrouble: mine.trouble } : {}),
    undelivered,
    nowMs: Date.now(),
  };
}

/** Prepared and under way; a session that ended because its booking was cancelled needs nobody any longer. */
async function openSessionsOf(me: Technician, { lists, bookings }: PorchParts): Promise<SessionView[]> {
  const sessions = await lists.openOf(me.id);
  const ended = sessions.filter(({ phase }) => phase === 'ended').map(({ id }) => id);
  const cancelled = await bookings.cancelledOf(ended);
  return sessions.filter(({ id }) => !cancelled.has(id));
}
