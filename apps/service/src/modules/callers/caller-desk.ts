import { AppError, SessionSearch, type CallersFound, type CallerView, type TicketView } from '@porch/wire';
import { unlessRefused } from '../../refusal-of.ts';
import type { BookedTelephones } from '../bookings/booked-telephones.ts';
import type { DeviceDesk } from '../devices/device-desk.ts';
import type { Technician } from '../people/technician.ts';
import type { QueueDesk } from '../queue/queue-desk.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import type { TicketLists } from '../tickets/ticket-lists.ts';

/** A number of a whole house stands for no more people than this. */
const MAX_CALLERS = 12;
const MAX_TICKETS = 30;
const MAX_SESSIONS = 20;

export interface CallerDeskParts {
  readonly queue: QueueDesk;
  readonly bookedTelephones: BookedTelephones;
  readonly ticketLists: TicketLists;
  readonly devices: DeviceDesk;
  readonly lists: SessionLists;
  readonly desk: SessionDesk;
}

type Source = CallerView['knownFrom'][number];

/**
 * Who is on the telephone: numbers are looked for where people gave them, in the queue, with a booking, in their tickets. A
 * number is no proof of who somebody is, and nothing is confirmed by it.
 */
export class CallerDesk {
  readonly #parts: CallerDeskParts;

  constructor(parts: CallerDeskParts) {
    this.#parts = parts;
  }

  async find(me: Technician, telephone: string): Promise<CallersFound> {
    const [waiting, booked, { tickets, trouble }] = await Promise.all([
      this.#parts.queue.ofTelephone(telephone),
      this.#parts.bookedTelephones.of(telephone),
      this.#ticketsOf(telephone),
    ]);
    const people = new Map<string, CallerView>();
    const personOf = (from: Source, name: string, address: string): CallerView | undefined => {
      const key = (address || name).toLowerCase();
      const known = people.get(key);
      if (!known && people.size >= MAX_CALLERS) return undefined;
      const person = known ?? newCaller(name, address);
      if (!person.knownFrom.includes(from)) person.knownFrom.push(from);
      people.set(key, person);
      return person;
    };
    for (const { address, view } of waiting) personOf('queue', view.name, address)?.waiting.push(view);
    for (const booking of booked) personOf('booking', booking.customerName, booking.address)?.bookings.push(booking);
    for (const ticket of tickets)
      personOf('ticket', ticket.requester.name, ticket.requester.address)?.tickets.push(ticket);
    await Promise.all([...people.values()].map((person) => this.#complete(me, person)));
    return { people: [...people.values()], ...(trouble ? { ticketTrouble: trouble } : {}) };
  }

  /** Throws SESSION_NOT_FOUND for those who may not read the session. */
  async telephoneOf(me: Technician, sessionId: string): Promise<string | undefined> {
    const { desk, queue, bookedTelephones, ticketLists } = this.#parts;
    const { state } = await desk.read(me, sessionId);
    const given = (await queue.telephoneOf(sessionId)) ?? (await bookedTelephones.ofSession(sessionId));
    if (given !== undefined || !state.ticketRef) return given;
    // Without its system, nothing is known of a ticket.
    const ticket = await ticketLists.read(state.ticketRef).catch(unlessRefused);
    return ticket?.requester.telephone;
  }

  /** What is found by who somebody is, and not by their number. */
  async #complete(me: Technician, person: CallerView): Promise<void> {
    const { lists, devices } = this.#parts;
    const isTheirs = (name: string | undefined) => name?.toLowerCase() === person.name.toLowerCase();
    const [{ items }, ofThem] = await Promise.all([
      lists.find(me, SessionSearch.parse({ words: person.name, limit: MAX_SESSIONS })),
      devices.list(person.name),
    ]);
    person.sessions = items.filter(({ customerName }) => isTheirs(customerName));
    person.devices = ofThem.filter(({ customerName, state }) => state !== 'ended' && isTheirs(customerName));
  }

  async #ticketsOf(telephone: string): Promise<{ tickets: TicketView[]; trouble?: string }> {
    try {
      return { tickets: (await this.#parts.ticketLists.ofTelephone(telephone)).slice(0, MAX_TICKETS) };
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
      return { tickets: [], trouble: error.message };
    }
  }
}

const newCaller = (name: string, address: string): CallerView => ({
  name,
  ...(address ? { address } : {}),
  ...{ knownFrom: [], waiting: [], bookings: [], tickets: [], devices: [], sessions: [] },
});
