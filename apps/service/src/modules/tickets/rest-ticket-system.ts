import { AppError, TicketView } from '@porch/wire';
import { z } from 'zod';
import type { TicketOutcome } from '../../module/parcels.ts';
import type { NewTicket, TicketSystem } from './ticket-system.ts';

/** A ticket system that does not answer within this is down for now. */
const ANSWER_MS = 3_000;
/** And one that answers with more than this is none. */
const MAX_ANSWER_BYTES = 1024 * 1024;
/** References are the ticket system's own; what could lead a request or a reader astray is none. */
const reference = /^[\p{L}\p{N}][\p{L}\p{N}._#:-]{0,39}$/u;
const mayBeReference = (ref: string) => reference.test(ref);

const Ticket = TicketView.refine(({ ref }) => mayBeReference(ref), 'this is no reference');

/** Speaks the open REST profile of docs/ticket-system.md. */
export class RestTicketSystem implements TicketSystem {
  readonly #url: string;
  readonly #key: string;

  constructor(url: string, key: string) {
    this.#url = url.replace(/\/$/, '');
    this.#key = key;
  }

  search(words: string): Promise<TicketView[]> {
    return this.#call(z.array(Ticket), 'GET', `/tickets?words=${encodeURIComponent(words)}`);
  }

  ofTelephone(telephone: string): Promise<TicketView[]> {
    return this.#call(z.array(Ticket), 'GET', `/tickets?telephone=${encodeURIComponent(telephone)}`);
  }

  async read(ref: string): Promise<TicketView> {
    if (!mayBeReference(ref)) throw new AppError('TICKET_NOT_FOUND');
    const ticket = await this.#call(Ticket, 'GET', `/tickets/${encodeURIComponent(ref)}`);
    // What answers with another ticket than was asked for would put one person's name on another's session.
    if (ticket.ref.toLowerCase() !== ref.toLowerCase()) throw new AppError('TICKET_NOT_FOUND');
    return ticket;
  }

  assignedTo(email: string): Promise<TicketView[]> {
    return this.#call(z.array(Ticket), 'GET', `/tickets?technician=${encodeURIComponent(email)}`);
  }

  async create(ticket: NewTicket, key: string): Promise<string> {
    return (await this.#call(Ticket, 'POST', '/tickets', { ...ticket, deliveryId: key })).ref;
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
        // The key is for this address alone.
        redirect: 'error',
        headers: {
          authorization: `Bearer ${this.#key}`,
          ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        },
        signal: AbortSignal.timeout(ANSWER_MS),
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      if (answer.ok) return schema.parse(JSON.parse(await boundedText(answer)));
    } catch (cause) {
      throw new AppError('TICKET_SYSTEM_DOWN', {}, { cause });
    }
    if (answer.status === 404) throw new AppError('TICKET_NOT_FOUND');
    throw new AppError('TICKET_SYSTEM_DOWN', { status: answer.status });
  }
}

async function boundedText(answer: Response): Promise<string> {
  const parts: Uint8Array[] = [];
  let bytes = 0;
  for await (const part of answer.body ?? []) {
    bytes += (part as Uint8Array).byteLength;
    if (bytes > MAX_ANSWER_BYTES) throw new Error('the answer is too large');
    parts.push(part as Uint8Array);
  }
  return Buffer.concat(parts).toString('utf8');
}

/** For a desk that has connected none: says so, and sessions work without. */
export class NoTicketSystem implements TicketSystem {
  search = () => Promise.resolve<TicketView[]>([]);
  ofTelephone = () => Promise.resolve<TicketView[]>([]);
  assignedTo = () => Promise.resolve<TicketView[]>([]);
  read = () => Promise.reject<TicketView>(new AppError('TICKET_NOT_FOUND'));
  create = () => Promise.resolve(undefined);
  comment = () => Promise.resolve();
  logOutcome = () => Promise.resolve();
}
