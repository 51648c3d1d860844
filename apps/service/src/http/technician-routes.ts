import { allPermissions, draftNote, mayAsk, minutesSpent } from '@porch/core';
import {
  AppError,
  CodeView,
  ConnectionTicket,
  encodeLedgerRow,
  EraseBody,
  LedgerView,
  PorchView,
  SessionView,
  SignedIn,
  SignInBody,
  StartBody,
  Started,
  TechnicianView,
  TicketView,
} from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { CONSOLE_COOKIE, technicianOf, technicianToken } from '../auth/technician-of.ts';
import { SIGN_IN_MS } from '../auth/sign-in.ts';
import type { TechnicianRow } from '../db/entities.ts';
import { newDoorPass } from '../door/door-passes.ts';
import type { Parts } from '../app.ts';

const OneSession = z.object({ id: z.uuid() });
const Nothing = z.object({});

/** Everything a signed-in technician can do over REST. */
export const technicianRoutes: FastifyPluginAsyncZod<Parts> = async (app, parts) => {
  const { signIns, desk, queue, tickets, ticketLists, outbox, feed, technicians, states, notices } = parts;

  const me = technicianOf(signIns);
  const viewOf = (t: TechnicianRow): z.infer<typeof TechnicianView> => ({
    id: t.id,
    name: t.name,
    email: t.email,
    team: t.team,
    role: t.role,
    isPresent: states.hasConsole(t.id),
  });

  async function porchFor(technician: TechnicianRow): Promise<z.infer<typeof PorchView>> {
    const [waiting, sessions, mine, offered, undelivered, state, known, booked, devices] = await Promise.all([
      queue.waitingFor(technician),
      desk.openOf(technician),
      ticketLists.mine(technician.email),
      desk.handoversFor(technician),
      outbox.undelivered(),
      states.mine(technician.id),
      notices.open(),
      parts.bookings.of(technician),
      parts.devices.list(),
    ]);
    const handovers = offered.flatMap(({ id, state, entries }) => {
      const request = entries.findLast((e) => e.event.type === 'handoverRequested')?.event;
      if (!state.handover || request?.type !== 'handoverRequested') return [];
      return [
        {
          handoverId: state.handover.id,
          sessionId: id,
          fromName: state.participants[state.handover.fromParticipantId]?.name ?? '',
          brief: request.personal?.brief ?? '',
          remainingMs: Math.max(0, state.handover.answerByMs - Date.now()),
        },
      ];
    });
    return {
      ways: parts.ways,
      bundles: parts.policy.bundles.map((b) => ({ name: b.name, permissions: [...b.permissions] })),
      me: state,
      mayNotAsk: allPermissions.filter((p) => !mayAsk(parts.policy.askLimits, technician, p)),
      notices: known,
      bookings: booked,
      devices,
      waiting,
      sessions,
      tickets: mine.tickets,
      handovers,
      ...(mine.trouble ? { ticketTrouble: mine.trouble } : {}),
      undelivered,
      nowMs: Date.now(),
    };
  }

  app.post('/sign-in', { schema: { body: SignInBody, response: { 200: SignedIn } } }, async (request, reply) => {
    const { email, password, keep } = request.body;
    const { technician, token, expiresAtMs } = await signIns.signIn(email, password, request.ip);
    if (keep === 'token') return { technician: viewOf(technician), token, expiresAtMs };
    reply.setCookie(CONSOLE_COOKIE, token, {
      path: '/api',
      httpOnly: true,
      sameSite: 'strict',
      secure: request.protocol === 'https',
      maxAge: SIGN_IN_MS / 1000,
    });
    return { technician: viewOf(technician), expiresAtMs };
  });
  app.post('/sign-out', { schema: { response: { 200: Nothing } } }, async (request, reply) => {
    await signIns.signOut(technicianToken(request));
    reply.clearCookie(CONSOLE_COOKIE, { path: '/api' });
    return {};
  });
  app.get('/me', { schema: { response: { 200: TechnicianView } } }, async (request) => viewOf(await me(request)));
  app.get('/technicians', { schema: { response: { 200: z.array(TechnicianView) } } }, async (request) => {
    await me(request);
    return [...technicians.values()].map(viewOf);
  });

  app.get('/porch', { schema: { response: { 200: PorchView } } }, async (request) => porchFor(await me(request)));
  app.get('/feed', { schema: { hide: true } }, async (request, reply) => {
    const technician = await me(request);
    reply.hijack();
    reply.raw.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    reply.raw.on('close', states.consoleOpened(technician.id));
    if (!feed.add(reply.raw, async () => porchFor(await me(request)))) reply.raw.end();
  });
  app.get(
    '/tickets',
    {
      schema: {
        querystring: z.object({ words: z.string().max(200).default('') }),
        response: { 200: z.array(TicketView) },
      },
    },
    async (request) => {
      await me(request);
      return ticketLists.search(request.query.words);
    },
  );

  app.post('/sessions', { schema: { body: StartBody, response: { 200: Started } } }, async (request) => {
    const technician = await me(request);
    const { deviceId, ...from } = request.body;
    if (!deviceId) return desk.start(technician, from);
    if (!mayAsk(parts.policy.askLimits, technician, 'keep-device')) throw new AppError('NOT_ALLOWED_BY_DESK');
    const device = await parts.devices.reachable(deviceId);
    if (!parts.deviceGateway.presenceOf(deviceId)) throw new AppError('DEVICE_OFFLINE');
    const started = await desk.start(technician, { ...from, device });
    const token = await newDoorPass(parts.records, started.session.id, 'doorstep', 'device');
    parts.deviceGateway.tell(deviceId, {
      type: 'visit',
      sessionId: started.session.id,
      token,
      technicianName: technician.name,
    });
    return started;
  });
  app.get(
    '/sessions',
    {
      schema: {
        querystring: z.object({ words: z.string().max(200).default('') }),
        response: { 200: z.array(SessionView) },
      },
    },
    async (request) => desk.list(await me(request), request.query.words),
  );
  app.get('/sessions/:id', { schema: { params: OneSession, response: { 200: SessionView } } }, async (request) => {
    const { id } = await desk.read(await me(request), request.params.id);
    return desk.view(id);
  });
  app.get(
    '/sessions/:id/draft',
    { schema: { params: OneSession, response: { 200: z.object({ note: z.string(), minutes: z.number() }) } } },
    async (request) => {
      const { entries } = await desk.read(await me(request), request.params.id);
      return { note: draftNote(entries), minutes: minutesSpent(entries, Date.now()) };
    },
  );
  app.get(
    '/sessions/:id/ledger',
    { schema: { params: OneSession, response: { 200: LedgerView } } },
    async (request) => {
      const { id } = await desk.read(await me(request), request.params.id);
      // From the records, not from memory: this is what gets verified.
      const fresh = await parts.readLedger(id);
      return {
        sessionId: id,
        rows: fresh.rows.map(encodeLedgerRow),
        asideRows: fresh.asideRows.map(encodeLedgerRow),
        asides: (await desk.book.open(id)).asides,
      };
    },
  );
  app.post(
    '/sessions/:id/erase',
    { schema: { params: OneSession, body: EraseBody, response: { 200: z.object({ erased: z.number() }) } } },
    async (request) => ({
      erased: await desk.erase(await me(request), request.params.id, request.body.rule),
    }),
  );
  app.post('/sessions/:id/code', { schema: { params: OneSession, response: { 200: CodeView } } }, async (request) => {
    const { row, nowMs } = await desk.newCode(await me(request), request.params.id);
    return desk.codeView(row, nowMs);
  });
  app.post(
    '/sessions/:id/code/withdraw',
    { schema: { params: OneSession, response: { 200: Nothing } } },
    async (request) => {
      await desk.withdrawCode(await me(request), request.params.id);
      return {};
    },
  );
  app.post(
    '/sessions/:id/live',
    { schema: { params: OneSession, response: { 200: ConnectionTicket } } },
    async (request) => {
      const technician = await me(request);
      const { id } = await desk.read(technician, request.params.id);
      return tickets.issue(
        { kind: 'technician', sessionId: id, technicianId: technician.id, name: technician.name },
        parts.liveUrl(request),
      );
    },
  );
  app.post(
    '/handovers/:id/:answer',
    {
      schema: {
        params: z.object({ id: z.uuid(), answer: z.enum(['accept', 'decline']) }),
        response: { 200: z.object({ sessionId: z.string() }) },
      },
    },
    async (request) => ({
      sessionId: await desk.answerHandover(await me(request), request.params.id, request.params.answer),
    }),
  );
};
