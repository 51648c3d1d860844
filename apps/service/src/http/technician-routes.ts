import { allPermissions, draftNote, mayAsk, mayComeBack, minutesSpent } from '@porch/core';
import {
  AppError,
  CodeView,
  ConnectionPass,
  encodeLedgerRow,
  EraseBody,
  LedgerView,
  PorchView,
  SessionView,
  SignedIn,
  SignInView,
  EndSignInsBody,
  SignInBody,
  StartBody,
  Started,
  TechnicianView,
  TicketView,
} from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../auth/guard.ts';
import { permit } from '../auth/permit.ts';
import { technicianToken } from '../auth/technician-of.ts';
import { clearCookie, setCookie } from './cookies.ts';
import { SIGN_IN_MS } from '../auth/sign-in.ts';
import type { TechnicianRow } from '../db/entities.ts';
import type { Parts } from '../parts.ts';

const OneSession = z.object({ id: z.uuid() });
const Nothing = z.object({});

/** Everything a signed-in technician can do over REST. */
export const technicianRoutes: FastifyPluginAsyncZod<Parts> = async (app, parts) => {
  const { signIns, desk, queue, connectionPasses, ticketLists, outbox, feed, technicians, states, knownFaults } = parts;

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
      knownFaults.open(),
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
      knownFaults: known,
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
    const { email, password, keep, work } = request.body;
    const { technician, token, expiresAtMs } = await signIns.signIn(email, password, {
      address: request.ip,
      program: String(request.headers['user-agent'] ?? ''),
      work,
    });
    if (keep === 'token') return { technician: viewOf(technician), token, expiresAtMs };
    setCookie(request, reply, 'porch_console', token, { maxAgeMs: SIGN_IN_MS });
    return { technician: viewOf(technician), expiresAtMs };
  });
  app.post('/sign-out', { schema: { response: { 200: Nothing } } }, async (request, reply) => {
    const ended = await signIns.signOut(technicianToken(request));
    if (ended) parts.endSignIns([ended]);
    clearCookie(request, reply, 'porch_console');
    return {};
  });
  app.get(
    '/me/sign-ins',
    { config: { may: 'see their sign-ins' }, schema: { response: { 200: z.array(SignInView) } } },
    async (request) =>
      (await signIns.of(personOf(request).id)).map((row) => ({
        id: row.id,
        begunAtMs: row.begunAt.getTime(),
        expiresAtMs: row.expiresAt.getTime(),
        address: row.address,
        program: row.program,
        isThisOne: row.id === request.signedIn?.signInId,
      })),
  );
  app.post(
    '/me/sign-ins/end',
    {
      config: { may: 'end a sign-in' },
      schema: { body: EndSignInsBody, response: { 200: z.object({ ended: z.number() }) } },
    },
    async (request) => {
      const { id } = personOf(request);
      const { ids } = request.body;
      const wanted = ids === 'all-others' ? (await signIns.of(id)).map((row) => row.id) : ids;
      const others = ids === 'all-others' ? wanted.filter((one) => one !== request.signedIn?.signInId) : wanted;
      const ended = await signIns.end(id, others);
      parts.endSignIns(ended);
      return { ended: ended.length };
    },
  );
  app.get('/me', { config: { may: 'see the porch' }, schema: { response: { 200: TechnicianView } } }, async (request) =>
    viewOf(personOf(request)),
  );
  app.get(
    '/technicians',
    { config: { may: 'see colleagues' }, schema: { response: { 200: z.array(TechnicianView) } } },
    async () => {
      return [...technicians.values()].map(viewOf);
    },
  );

  app.get('/porch', { config: { may: 'see the porch' }, schema: { response: { 200: PorchView } } }, async (request) =>
    porchFor(personOf(request)),
  );
  app.get('/feed', { config: { may: 'see the porch' }, schema: { hide: true } }, async (request, reply) => {
    const technician = personOf(request);
    reply.hijack();
    reply.raw.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    reply.raw.on('close', states.consoleOpened(technician.id));
    // Looked at anew each time: who signed out meanwhile is told nothing more.
    const read = async () => porchFor((await signIns.whoHas(technicianToken(request))).technician);
    if (!feed.add(reply.raw, request.signedIn?.signInId ?? '', read)) reply.raw.end();
  });
  app.get(
    '/tickets',
    {
      config: { may: 'search tickets' },
      schema: {
        querystring: z.object({ words: z.string().max(200).default('') }),
        response: { 200: z.array(TicketView) },
      },
    },
    async (request) => {
      return ticketLists.search(request.query.words);
    },
  );

  app.post(
    '/sessions',
    { config: { may: 'start a session' }, schema: { body: StartBody, response: { 200: Started } } },
    async (request) => {
      const technician = personOf(request);
      const { deviceId, ...from } = request.body;
      if (!deviceId) return desk.start(technician, from);
      if (!mayComeBack(parts.policy.askLimits, technician)) throw new AppError('NOT_ALLOWED_BY_DESK');
      permit(technician, 'visit a device');
      const device = await parts.devices.reachable(deviceId);
      if (!parts.deviceGateway.presenceOf(deviceId)) throw new AppError('DEVICE_OFFLINE');
      const started = await desk.start(technician, { ...from, device });
      const token = await parts.passes.forDevice(started.session.id);
      parts.deviceGateway.tell(deviceId, {
        type: 'visit',
        sessionId: started.session.id,
        token,
        technicianName: technician.name,
      });
      return started;
    },
  );
  app.get(
    '/sessions',
    {
      config: { may: 'list sessions' },
      schema: {
        querystring: z.object({ words: z.string().max(200).default('') }),
        response: { 200: z.array(SessionView) },
      },
    },
    async (request) => desk.list(personOf(request), request.query.words),
  );
  app.get(
    '/sessions/:id',
    { config: { may: 'read a session' }, schema: { params: OneSession, response: { 200: SessionView } } },
    async (request) => {
      const { id } = await desk.read(personOf(request), request.params.id);
      return desk.view(id);
    },
  );
  app.get(
    '/sessions/:id/draft',
    {
      config: { may: 'read a session' },
      schema: { params: OneSession, response: { 200: z.object({ note: z.string(), minutes: z.number() }) } },
    },
    async (request) => {
      const { entries } = await desk.read(personOf(request), request.params.id);
      return { note: draftNote(entries, parts.policy.timeZone), minutes: minutesSpent(entries, Date.now()) };
    },
  );
  app.get(
    '/sessions/:id/ledger',
    { config: { may: 'read a session' }, schema: { params: OneSession, response: { 200: LedgerView } } },
    async (request) => {
      const { id } = await desk.read(personOf(request), request.params.id);
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
    {
      config: { may: 'erase a session' },
      schema: { params: OneSession, body: EraseBody, response: { 200: z.object({ erased: z.number() }) } },
    },
    async (request) => ({
      erased: await desk.erase(personOf(request), request.params.id, request.body.rule),
    }),
  );
  app.post(
    '/sessions/:id/code',
    { config: { may: 'invite into a session' }, schema: { params: OneSession, response: { 200: CodeView } } },
    async (request) => {
      const { row, nowMs } = await desk.newCode(personOf(request), request.params.id);
      return desk.codeView(row, nowMs);
    },
  );
  app.post(
    '/sessions/:id/code/withdraw',
    { config: { may: 'invite into a session' }, schema: { params: OneSession, response: { 200: Nothing } } },
    async (request) => {
      await desk.withdrawCode(personOf(request), request.params.id);
      return {};
    },
  );
  app.post(
    '/sessions/:id/live',
    { config: { may: 'join a session' }, schema: { params: OneSession, response: { 200: ConnectionPass } } },
    async (request) => {
      const technician = personOf(request);
      const { id } = await desk.read(technician, request.params.id, 'join a session');
      return connectionPasses.issue(
        {
          kind: 'technician',
          sessionId: id,
          technicianId: technician.id,
          name: technician.name,
          signInId: request.signedIn?.signInId ?? '',
        },
        parts.liveUrl(request),
      );
    },
  );
  app.post(
    '/handovers/:id/:answer',
    {
      config: { may: 'answer a handover' },
      schema: {
        params: z.object({ id: z.uuid(), answer: z.enum(['accept', 'decline']) }),
        response: { 200: z.object({ sessionId: z.string() }) },
      },
    },
    async (request) => ({
      sessionId: await desk.answerHandover(personOf(request), request.params.id, request.params.answer),
    }),
  );
};
