import { AppError, type ConnectionTicket } from '@porch/wire';
import { makeToken } from '../auth/tokens.ts';

/** How long a ticket waits for its connection, and how many may wait. */
const TICKET_MS = 30_000;
const MAX_TICKETS = 5_000;

export type Bearer =
  | { kind: 'technician'; sessionId: string; technicianId: string; name: string }
  | { kind: 'customer'; sessionId: string; role: 'customer-page' | 'doorstep'; way: string };

/** Short-lived leave to connect once, bound to session, role and person. Kept in memory: a restart asks for new ones. */
export class ConnectionTickets {
  readonly #waiting = new Map<string, { bearer: Bearer; expiresAtMs: number }>();

  issue(bearer: Bearer, liveUrl: string): ConnectionTicket {
    for (const [old, { expiresAtMs }] of this.#waiting) {
      if (expiresAtMs > Date.now() && this.#waiting.size < MAX_TICKETS) break;
      this.#waiting.delete(old);
    }
    const ticket = makeToken();
    this.#waiting.set(ticket, { bearer, expiresAtMs: Date.now() + TICKET_MS });
    return { ticket, sessionId: bearer.sessionId, liveUrl };
  }

  redeem(ticket: string): Bearer {
    const found = this.#waiting.get(ticket);
    this.#waiting.delete(ticket);
    if (!found || found.expiresAtMs < Date.now()) throw new AppError('TICKET_INVALID');
    return found.bearer;
  }
}
