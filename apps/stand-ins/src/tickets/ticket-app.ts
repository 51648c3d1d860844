import { createHmac, randomUUID, timingSafeEqual } from 'node:crypto';
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import Fastify, { type FastifyInstance } from 'fastify';
import { serializerCompiler, validatorCompiler, type ZodTypeProvider } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { firstTickets, type Ticket } from './ticket-data.ts';
import { ticketListPage, ticketPage } from './ticket-page.ts';

export interface TicketAppOptions {
  readonly key: string;
  readonly dataFile: string;
  /** Where to say that something changed; tried a few times and then left. */
  readonly webhookUrl: string | undefined;
  /** Where a requester who wants help now is announced; answers with the page that waits for them. */
  readonly helpUrl?: string | undefined;
}

const TicketQuery = z.object({
  words: z.string().optional(),
  technician: z.string().optional(),
  telephone: z.string().optional(),
});
/** Whether a ticket is what somebody looks for: by words, who works on it, and its requester's number. */
function fits(ticket: Ticket, { words = '', technician, telephone = '' }: z.infer<typeof TicketQuery>): boolean {
  const { requester } = ticket;
  if (technician && (ticket.technician !== technician || ticket.state === 'closed')) return false;
  const [digits, theirs] = [telephone, requester.telephone ?? ''].map((number) => number.replace(/\D/g, ''));
  if (digits && !(theirs && digits.endsWith(theirs))) return false;
  const text = [ticket.ref, ticket.title, requester.name, requester.address, ticket.asset ?? '']
    .join(' ')
    .toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}
const WEBHOOK_TRIES = 5;
const State = z.enum(['open', 'waiting', 'closed']);

/** A small ticket system of its own, for demo and tests: REST, signed webhooks, a page, its data in a file. */
export function buildTicketApp({ key, dataFile, webhookUrl, helpUrl }: TicketAppOptions): FastifyInstance {
  const app = Fastify({ logger: false, forceCloseConnections: true }).withTypeProvider<ZodTypeProvider>();
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  const tickets: Ticket[] = existsSync(dataFile)
    ? (JSON.parse(readFileSync(dataFile, 'utf8')) as Ticket[])
    : firstTickets();
  const seen = new Set<string>();

  const save = () => {
    writeFileSync(`${dataFile}.new`, JSON.stringify(tickets, undefined, 1));
    renameSync(`${dataFile}.new`, dataFile);
  };
  const find = (ref: string) => tickets.find((t) => t.ref === ref.toUpperCase());
  const changed = (ref: string) => {
    save();
    tell(ref).catch((error: unknown) => process.emitWarning(`a change was not told: ${String(error)}`));
  };
  const signed = (body: string) => ({
    method: 'POST',
    body,
    headers: {
      'content-type': 'application/json',
      'porch-signature': createHmac('sha256', key).update(body).digest('hex'),
    },
  });
  async function tell(ref: string): Promise<void> {
    if (!webhookUrl) return;
    const deliveryId = randomUUID();
    for (let attempt = 0; attempt < WEBHOOK_TRIES; attempt++) {
      const body = JSON.stringify({ deliveryId, sentAtMs: Date.now(), event: 'ticketChanged', ref });
      const isTaken = await fetch(webhookUrl, signed(body)).then(
        (answer) => answer.ok,
        () => false,
      );
      if (isTaken) return;
      await new Promise((resolve) => setTimeout(resolve, 300 * 2 ** attempt).unref());
    }
  }

  app.addHook('onRequest', async (request, reply) => {
    if (!request.url.startsWith('/tickets')) return;
    const given = Buffer.from(request.headers.authorization ?? '');
    const right = Buffer.from(`Bearer ${key}`);
    if (given.length !== right.length || !timingSafeEqual(given, right))
      return reply.code(401).send({ message: 'the key is wrong' });
  });

  const Ref = z.object({ ref: z.string() });
  app.get('/tickets', { schema: { querystring: TicketQuery } }, ({ query }) => tickets.filter((t) => fits(t, query)));
  const NewTicket = z.strictObject({
    title: z.string().max(300),
    requester: z.object({ name: z.string(), address: z.string() }),
    technician: z.string(),
    description: z.string().max(200_000),
    deliveryId: z.string(),
  });
  app.post('/tickets', { bodyLimit: 4 * 1024 * 1024, schema: { body: NewTicket } }, (request) => {
    const { deliveryId, ...ticket } = request.body;
    const known = tickets.find((t) => t.madeBy === deliveryId);
    if (known) return known;
    const last = Math.max(...tickets.map((t) => Number(t.ref.split('-')[1])));
    const made: Ticket = {
      ref: `MF-${last + 1}`,
      state: 'open',
      comments: [],
      outcomes: [],
      madeBy: deliveryId,
      ...ticket,
    };
    tickets.push(made);
    changed(made.ref);
    return made;
  });
  app.get(
    '/tickets/:ref',
    { schema: { params: Ref } },
    (request, reply) => find(request.params.ref) ?? reply.code(404).send({ message: 'no such ticket' }),
  );
  app.patch('/tickets/:ref', { schema: { params: Ref, body: z.strictObject({ state: State }) } }, (request, reply) => {
    const ticket = find(request.params.ref);
    if (!ticket) return reply.code(404).send({ message: 'no such ticket' });
    ticket.state = request.body.state;
    changed(ticket.ref);
    return ticket;
  });
  app.post(
    '/tickets/:ref/comments',
    { schema: { params: Ref, body: z.strictObject({ text: z.string().max(20_000), deliveryId: z.string() }) } },
    (request, reply) => {
      const ticket = find(request.params.ref);
      if (!ticket) return reply.code(404).send({ message: 'no such ticket' });
      if (!seen.has(request.body.deliveryId)) {
        seen.add(request.body.deliveryId);
        ticket.comments.push({ atMs: Date.now(), by: 'Zesty Porch', text: request.body.text });
        changed(ticket.ref);
      }
      return ticket;
    },
  );
  const OutcomeBody = z.strictObject({
    outcome: z.string(),
    note: z.string(),
    minutes: z.number(),
    chat: z.string(),
    actions: z.string(),
    sessionId: z.string(),
    ledgerHead: z.string(),
    deliveryId: z.string(),
  });
  app.post(
    '/tickets/:ref/outcomes',
    { bodyLimit: 4 * 1024 * 1024, schema: { params: Ref, body: OutcomeBody } },
    (request, reply) => {
      const ticket = find(request.params.ref);
      if (!ticket) return reply.code(404).send({ message: 'no such ticket' });
      const { deliveryId, ...outcome } = request.body;
      if (
        !seen.has(deliveryId) &&
        !ticket.outcomes.some((o) => o.sessionId === outcome.sessionId && o.ledgerHead === outcome.ledgerHead)
      ) {
        seen.add(deliveryId);
        ticket.outcomes.push({ atMs: Date.now(), ...outcome });
        if (outcome.outcome === 'resolved' || outcome.outcome === 'worked-around') ticket.state = 'closed';
        changed(ticket.ref);
      }
      return ticket;
    },
  );
  app.get('/', (_request, reply) => reply.type('text/html').send(ticketListPage(tickets)));
  app.get('/t/:ref', { schema: { params: Ref } }, (request, reply) => {
    const ticket = find(request.params.ref);
    return ticket
      ? reply.type('text/html').send(ticketPage(ticket))
      : reply.code(404).type('text/html').send('<p>There is no such ticket.</p>');
  });
  // Whoever looks at a ticket here is taken for its requester: a real ticket system knows who is signed in.
  app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_request, _body, done) =>
    done(null, {}),
  );
  app.post('/t/:ref/help-now', { schema: { params: Ref } }, async (request, reply) => {
    const ticket = find(request.params.ref);
    if (!ticket || !helpUrl) return reply.code(404).send({ message: 'help is not to be had from here' });
    const { ref, requester } = ticket;
    const body = JSON.stringify({ deliveryId: randomUUID(), sentAtMs: Date.now(), ref, requester });
    try {
      const answer = await fetch(helpUrl, signed(body));
      const { url, message } = (await answer.json()) as { url?: string; message?: string };
      if (url) return await reply.redirect(url);
      return await reply.code(answer.status).send({ message });
    } catch {
      return reply.code(503).send({ message: 'the help desk does not answer; please call it' });
    }
  });
  return app as unknown as FastifyInstance;
}
