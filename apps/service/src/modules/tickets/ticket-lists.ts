import { isSameTelephone } from '@porch/core';
import { AppError, type TicketView } from '@porch/wire';
import type { TicketSystem } from './ticket-system.ts';

/** Lists are asked for anew after this long even if no webhook said that something changed. */
const FRESH_MS = 30_000;
const MAX_KNOWN_TICKETS = 2_000;
/** So many are looked up at a time for those who wait; the others when they are looked at next. */
const MAX_LOOKED_UP = 20;

interface Listed {
  tickets: TicketView[];
  atMs: number;
  trouble: string | undefined;
}

/** Each technician's tickets, kept so that a ticket system that is down takes nothing away that was seen before. */
export class TicketLists {
  readonly #system: TicketSystem;
  readonly #lists = new Map<string, Listed>();
  readonly #known = new Map<string, TicketView>();
  /** When tickets were last looked up that nobody had seen. */
  readonly #lookedUp = new Map<string, number>();

  constructor(system: TicketSystem) {
    this.#system = system;
  }

  async mine(email: string): Promise<{ tickets: TicketView[]; trouble: string | undefined }> {
    const listed = this.#lists.get(email);
    if (listed && Date.now() - listed.atMs < FRESH_MS) return listed;
    try {
      const tickets = await this.#system.assignedTo(email);
      this.#note(tickets);
      this.#lists.set(email, { tickets, atMs: Date.now(), trouble: undefined });
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
      // Old news are better than none; look again soon.
      this.#lists.set(email, {
        tickets: listed?.tickets ?? [],
        atMs: Date.now() - FRESH_MS + 3_000,
        trouble: error.message,
      });
    }
    return this.#lists.get(email) ?? { tickets: [], trouble: undefined };
  }

  async search(words: string): Promise<TicketView[]> {
    const tickets = await this.#system.search(words);
    this.#note(tickets);
    return tickets;
  }

  /** Those whose requester has this number, however it is written there. */
  async ofTelephone(telephone: string): Promise<TicketView[]> {
    const tickets = await this.#system.ofTelephone(telephone);
    const theirs = tickets.filter(({ requester }) => isSameTelephone(requester.telephone ?? '', telephone));
    this.#note(theirs);
    return theirs;
  }

  /** A ticket to start from. When its system is down, the ticket as last seen; undefined when it never was. */
  async read(ref: string): Promise<TicketView | undefined> {
    try {
      const ticket = await this.#system.read(ref);
      this.#note([ticket]);
      return ticket;
    } catch (error) {
      if (error instanceof AppError && error.code === 'TICKET_SYSTEM_DOWN') return this.#known.get(ref.toLowerCase());
      throw error;
    }
  }

  /** A ticket as last seen; asks nobody. */
  seen(ref: string): TicketView | undefined {
    return this.#known.get(ref.toLowerCase());
  }

  /** Looks up those of which nothing was seen, each now and then at most; whether anything was learned. */
  async lookUp(refs: readonly string[]): Promise<boolean> {
    const nowMs = Date.now();
    for (const [ref, atMs] of this.#lookedUp) if (nowMs - atMs > FRESH_MS) this.#lookedUp.delete(ref);
    const unseen = [...new Set(refs.map((ref) => ref.toLowerCase()))]
      .filter((ref) => !this.#known.has(ref) && !this.#lookedUp.has(ref))
      .slice(0, MAX_LOOKED_UP);
    for (const ref of unseen) this.#lookedUp.set(ref, nowMs);
    const found = await Promise.all(
      unseen.map((ref) =>
        this.read(ref).catch((error: unknown) => {
          // A customer may have mistyped it, and the system may be down: then nothing more is known of their device.
          if (error instanceof AppError) return undefined;
          throw error;
        }),
      ),
    );
    return found.some((ticket) => ticket !== undefined);
  }

  /** The ticket system said that something changed. */
  expire(): void {
    for (const listed of this.#lists.values()) listed.atMs = 0;
  }

  #note(tickets: readonly TicketView[]): void {
    for (const ticket of tickets) {
      // As people type it; how it is written is the ticket system's own.
      const key = ticket.ref.toLowerCase();
      this.#known.delete(key);
      this.#known.set(key, ticket);
    }
    for (const ref of this.#known.keys()) {
      if (this.#known.size <= MAX_KNOWN_TICKETS) break;
      this.#known.delete(ref);
    }
  }
}
