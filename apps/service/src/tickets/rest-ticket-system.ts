import { AppError, TicketView } from '@porch/wire';
import { z } from 'zod';
import type { NewTicket, TicketOutcome, TicketSystem } from './ticket-system.ts';

/** A ticket system that does not answer within this is down for now. */
const ANSWER_MS = 3_000;

/** Speaks the open REST profile of docs/ticket-system.md. */
export class RestTicketSystem implements TicketSystem {
  readonly #url: string;
  readonly #key: string;

  constructor(url: string, key: string) {
    this.#url = url.replace(/\/$/, '');
    this.#key = key;
  }

  search(words: string): Promise<TicketView[]> {
    return this.#call(z.array(TicketView), 'GET', `/tickets?words=${encodeURIComponent(words)}`);
  }

  read(ref: string): Promise<TicketView> {
    return this.#call(TicketView, 'GET', `/tickets/${encodeURIComponent(ref)}`);
  }

  assignedTo(email: string): Promise<TicketView[]> {
    return this.#call(z.array(TicketView), 'GET', `/tickets?assignee=${encodeURIComponent(email)}`);
  }

  async create(ticket: NewTicket, key: string): Promise<string> {
    return (await this.#call(TicketView, 'POST', '/tickets', { ...ticket, deliveryId: key })).ref;
  }

  async comment(ref: string, text: string, deliveryId: string): Promise<void> {
    await this.#call(z.unknown(), 'POST', `/tickets/${encodeURIComponent(ref)}/comments`, { text, deliveryId });
  }

  async logOutcome(ref: string, outcome: TicketOutcome, deliveryId: string): Promise<void> {
    await this.#call(z.unknown(), 'POST', `/tickets/${encodeURIComponent(ref)}/outcomes`, { ...outcome, deliveryId });
  }

  async #call<T>(schema: z.ZodType<T>, method: string, path: string, body?: unknown): Promise<T> {
    let answer: Response;
    try {
      answer = await fetch(this.#url + path, {
        method,
        headers: {
          authorization: `Bearer ${this.#key}`,
          ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        },
        signal: AbortSignal.timeout(ANSWER_MS),
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      if (answer.ok) return schema.parse(await answer.json());
    } catch (cause) {
      throw new AppError('TICKET_SYSTEM_DOWN', {}, { cause });
    }
    if (answer.status === 404) throw new AppError('TICKET_NOT_FOUND');
    throw new AppError('TICKET_SYSTEM_DOWN', { status: answer.status });
  }
}

/** For a desk that has connected none: says so, and sessions work without. */
export class NoTicketSystem implements TicketSystem {
  search = () => Promise.resolve<TicketView[]>([]);
  assignedTo = () => Promise.resolve<TicketView[]>([]);
  read = () => Promise.reject<TicketView>(new AppError('TICKET_NOT_FOUND'));
  create = () => Promise.resolve(undefined);
  comment = () => Promise.resolve();
  logOutcome = () => Promise.resolve();
}
