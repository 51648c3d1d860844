import { purposeInWords } from '@porch/core';
import type { CallerView, SessionView } from '@porch/wire';
import { exactly } from '../../times.ts';
import { oneLine } from '../porch/one-line.ts';
import type { StartFrom } from '../porch/use-starting.ts';
import { ledger, speech, w } from '../../words/index.ts';

/** One thing that the desk has of somebody, and what can be done with it. */
export interface CallerRow {
  readonly key: string;
  readonly kind: string;
  readonly what: string;
  readonly atMs?: number;
  /** Missing where there is nothing to do. */
  readonly act?: { readonly label: string; readonly of: string; readonly isMain?: boolean; go(): void };
}

export interface CallerDoors {
  start(from: StartFrom): void;
  open(path: string): void;
}

/** What to do first stands first: they wait, they are booked, a ticket, their device, and what was. */
export const callerRows = (person: CallerView, myId: string | undefined, doors: CallerDoors): CallerRow[] => [
  ...person.waiting.map((entry) => waitingRow(person, entry, doors)),
  ...person.bookings.map((booking) => bookingRow(booking, myId, doors)),
  ...person.tickets.map((ticket) => ticketRow(ticket, doors)),
  ...person.devices.map((device) => deviceRow(device, doors)),
  ...person.sessions.map((session) => sessionRow(session, myId, doors)),
];

type Of<K extends 'waiting' | 'bookings' | 'tickets' | 'devices'> = CallerView[K][number];

const waitingRow = ({ name }: CallerView, entry: Of<'waiting'>, { start }: CallerDoors): CallerRow => ({
  key: entry.id,
  kind: w.value.caller.waits,
  what: oneLine(entry.topic, entry.description),
  atMs: entry.sinceMs,
  act: {
    label: w.value.waiting.help,
    of: w.value.waiting.helpOf({ name }),
    isMain: true,
    go: () => start({ queueEntryId: entry.id }),
  },
});

function bookingRow(booking: Of<'bookings'>, myId: string | undefined, { open }: CallerDoors): CallerRow {
  const { caller } = w.value;
  const with_ = caller.bookedWith({ when: speech.value.exactlyHere(booking.startsAtMs), name: booking.technicianName });
  const act = {
    label: caller.open,
    of: caller.openOf({ what: booking.purpose }),
    go: () => open(`/session/${booking.sessionId}`),
  };
  return {
    key: booking.id,
    kind: caller.booking,
    what: oneLine(with_, booking.purpose),
    ...(booking.technicianId === myId ? { act } : {}),
  };
}

const ticketRow = (ticket: Of<'tickets'>, { start }: CallerDoors): CallerRow => ({
  key: ticket.ref,
  kind: w.value.caller.ticket,
  what: oneLine(ticket.ref, ticket.asset, ticket.assetLabel, ticket.title, ticket.state),
  act: {
    label: w.value.porch.start,
    of: w.value.porch.startFrom({ ref: ticket.ref }),
    isMain: ticket.state !== 'closed',
    go: () => start({ ticketRef: ticket.ref }),
  },
});

function deviceRow(device: Of<'devices'>, { start }: CallerDoors): CallerRow {
  const { devices, caller } = w.value;
  const act = {
    label: devices.visit,
    of: devices.visitOf({ device: device.name }),
    go: () => start({ deviceId: device.id }),
  };
  return {
    key: device.id,
    kind: caller.device,
    what: oneLine(device.name, devices.states[device.state]),
    ...(device.state === 'offline' ? {} : { act }),
  };
}

const isUnderWay = ({ phase }: SessionView) => phase === 'prepared' || phase === 'joining' || phase === 'live';

function sessionRow(session: SessionView, myId: string | undefined, { open }: CallerDoors): CallerRow {
  const { caller, common } = w.value;
  const purpose = purposeInWords(session.purpose, ledger.value);
  const how = session.outcome ? common.outcomes[session.outcome] : common.phases[session.phase];
  return {
    key: session.id,
    kind: caller.session,
    atMs: session.preparedAtMs,
    what: oneLine(how, session.ticketRef, purpose, session.technicianName),
    act:
      isUnderWay(session) && session.technicianId === myId
        ? {
            label: caller.open,
            of: caller.openOf({ what: purpose }),
            isMain: true,
            go: () => open(`/session/${session.id}`),
          }
        : {
            label: caller.read,
            of: caller.readOf({ when: exactly(session.preparedAtMs) }),
            go: () => open(`/past-sessions/${session.id}`),
          },
  };
}
