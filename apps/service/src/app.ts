import cookie from '@fastify/cookie';
import helmet from '@fastify/helmet';
import rateLimit from '@fastify/rate-limit';
import fastifyStatic from '@fastify/static';
import swagger from '@fastify/swagger';
import { defaultPolicy, type LedgerRow, type Policy, type Templates, type Topic } from '@porch/core';
import { AppError } from '@porch/wire';
import Fastify, { type FastifyInstance, type FastifyRequest } from 'fastify';
import { jsonSchemaTransform, serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod';
import { existsSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { join } from 'node:path';
import type { Duplex } from 'node:stream';
import type { DataSource } from 'typeorm';
import { Attempts } from './auth/attempts.ts';
import { SignIns } from './auth/sign-in.ts';
import { CodeSecrets } from './auth/tokens.ts';
import { BookingDesk } from './bookings/booking-desk.ts';
import { bookingRoutes } from './bookings/booking-routes.ts';
import { CodeDesk } from './codes/code-desk.ts';
import type { Config } from './config.ts';
import { makeDataSource } from './db/data-source.ts';
import { SessionEntity, type TechnicianRow } from './db/entities.ts';
import { DeviceDesk } from './devices/device-desk.ts';
import { DeviceGateway } from './devices/device-gateway.ts';
import { deviceRoutes } from './devices/device-routes.ts';
import { Directory } from './directory/directory.ts';
import { directoryRoutes } from './directory/directory-routes.ts';
import { downloadRoutes } from './downloads/download-routes.ts';
import type { ReleaseShelf } from './downloads/release-shelf.ts';
import { doorRoutes } from './door/door-routes.ts';
import { addErrorReplies } from './http/error-replies.ts';
import { technicianRoutes } from './http/technician-routes.ts';
import { ConnectionTickets } from './live/connection-tickets.ts';
import type { InvitationDesk } from './invitations/invitation-desk.ts';
import { invitationRoutes } from './invitations/invitation-routes.ts';
import { LiveGateway } from './live/live-gateway.ts';
import { BounceDoor } from './messages/bounce-door.ts';
import { makeGateway } from './messages/outside-gateway.ts';
import { textReportRoutes } from './messages/text-report-routes.ts';
import { DeskFeed } from './porch/desk-feed.ts';
import { NoticeDesk } from './queue/notice-desk.ts';
import { queueRoutes } from './queue/queue-routes.ts';
import { QueueDesk } from './queue/queue-desk.ts';
import { TechnicianStates } from './queue/technician-states.ts';
import { RepeatedWork } from './repeated-work.ts';
import { readRows } from './sessions/ledger-store.ts';
import { readTechnicians, SessionDesk } from './sessions/session-desk.ts';
import { Outbox } from './tickets/outbox.ts';
import { MailTicketSystem } from './tickets/mail-ticket-system.ts';
import { NoTicketSystem, RestTicketSystem } from './tickets/rest-ticket-system.ts';
import { TicketLists } from './tickets/ticket-lists.ts';
import { webhookRoutes } from './tickets/webhook-routes.ts';

/** What the routes are handed; made once in `buildApp`. */
export interface Parts {
  readonly records: DataSource;
  readonly signIns: SignIns;
  readonly attempts: Attempts;
  readonly codes: CodeDesk;
  readonly desk: SessionDesk;
  readonly queue: QueueDesk;
  readonly tickets: ConnectionTickets;
  readonly ticketLists: TicketLists;
  readonly outbox: Outbox;
  readonly feed: DeskFeed;
  readonly live: LiveGateway;
  readonly invitations: InvitationDesk;
  readonly bookings: BookingDesk;
  readonly devices: DeviceDesk;
  readonly deviceGateway: DeviceGateway;
  /** The release of Doorstep that is handed out; undefined: none. */
  readonly shelf: ReleaseShelf | undefined;
  readonly templates: Templates;
  readonly mailFrom: string;
  /** What the desk can send with. */
  readonly ways: { readonly hasMail: boolean; readonly hasTexts: boolean };
  readonly policy: Policy;
  readonly topics: readonly Topic[];
  readonly technicians: ReadonlyMap<string, TechnicianRow>;
  readonly states: TechnicianStates;
  readonly notices: NoticeDesk;
  readonly directory: Directory | undefined;
  readonly requestsNeedSignIn: boolean;
  publicUrl(): string;
  liveUrl(request: FastifyRequest): string;
  readLedger(id: string): Promise<{ rows: LedgerRow[]; asideRows: LedgerRow[] }>;
}

const MAX_BODY_BYTES = 64 * 1024;
const REQUESTS_PER_MINUTE = 1_200;
const ROTATION_LOOK_MS = 1_000;
/** Who waits is looked at so often; an offer is there within it. */
const ROUTING_PAUSE_MS = 400;
const REMINDING_PAUSE_MS = 5_000;
const DEVICE_ENDS_PAUSE_MS = 5_000;

/** The whole service, wired in one place. Listening is the caller's business. */
export async function buildApp(config: Config): Promise<FastifyInstance> {
  const app = Fastify({
    logger: { level: config.logLevel, redact: ['req.headers.authorization', 'req.headers.cookie'] },
    bodyLimit: MAX_BODY_BYTES,
    trustProxy: config.trustProxy,
    forceCloseConnections: true,
    // Links and tokens may stand in a path or a query: the path alone is logged, and the door's not even that.
    disableRequestLogging: true,
  });
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  addErrorReplies(app);

  const records = makeDataSource(config.databaseUrl, (error) =>
    app.log.warn({ why: error.message }, 'a connection to the records broke'),
  );
  await records.initialize();
  await records.runMigrations({ transaction: 'each' });
  const [owner] = await records.query<[{ epoch: number }[], number]>(
    `UPDATE "session_owner" SET "epoch" = "epoch" + 1 WHERE "id" = 1 RETURNING "epoch"`,
  );
  const technicians = await readTechnicians(records);

  const publicUrl = () =>
    config.publicUrl ??
    `http://${config.host}:${String((app.server.address() as { port?: number } | null)?.port ?? config.port)}`;
  const policy: Policy = {
    ...defaultPolicy,
    codeLifetimeMs: config.codeLifetimeMs,
    codeRotateMs: config.codeRotateMs,
    isCodeSingleUse: config.isCodeSingleUse,
    invitationLifetimeMs: config.invitationLifetimeMs,
    timeZone: config.timeZone,
    limits: config.limits,
    wrapUpMs: config.wrapUpMs,
    routing: { ...defaultPolicy.routing, offerMs: config.offerMs },
    officeHours: config.officeHours,
    topicNeeds: config.topicNeeds,
    maxWaiting: config.maxWaiting,
    bundles: config.bundles,
    ticketIfNone: config.ticketsUrl || config.ticketsMail ? config.ticketIfNone : 'never',
    handoverAnswerMs: config.handoverAnswerMs,
    noticeVersion: config.notice.version,
    notice: config.notice.texts,
    asks: config.asks,
    askLimits: config.askLimits,
    standingConsentDays: config.standingConsentDays,
    awayAfterMs: config.awayAfterMs,
    maxFileBytes: config.maxFileBytes,
    controlNeedsComparedWords: config.controlNeedsComparedWords,
    deskName: config.deskName,
    deskPhone: config.deskPhone,
  };
  const gateway = makeGateway(config);
  const ticketSystem =
    config.ticketsUrl && config.ticketsKey
      ? new RestTicketSystem(config.ticketsUrl, config.ticketsKey)
      : config.ticketsMail
        ? new MailTicketSystem(gateway, config.ticketsMail)
        : new NoTicketSystem();
  const ticketLists = new TicketLists(ticketSystem);
  const feed = new DeskFeed((error) => {
    if (!(error instanceof AppError)) app.log.warn({ err: error }, 'the porch could not be told');
  });
  const outbox = new Outbox(records, app.log, feed.changed);
  const secrets = new CodeSecrets(config.secret);
  const attempts = new Attempts(records);
  const codes = new CodeDesk(secrets, policy.codeLifetimeMs);
  const states = new TechnicianStates(records, policy, technicians);
  const queue = new QueueDesk({ records, policy, states, technicians });
  const desk = new SessionDesk({
    records,
    codes,
    tickets: ticketLists,
    outbox,
    policy,
    queue,
    states,
    technicians,
    invitations: { secrets, gateway, ticketSystem, templates: config.templates, onChanged: feed.changed, publicUrl },
  });
  const tickets = new ConnectionTickets();
  const live = new LiveGateway({
    book: desk.book,
    tickets,
    log: app.log,
    ownerEpoch: owner[0]?.epoch ?? 0,
    onChanged: feed.changed,
    graceMs: config.graceMs,
  });
  desk.book.onAppended(feed.changed);

  const deviceGateway = new DeviceGateway(app.log, feed.changed);
  const devices = new DeviceDesk({ records, book: desk.book, policy, presenceOf: deviceGateway.presenceOf });
  const deviceEnds = new RepeatedWork('ending old standing consents', DEVICE_ENDS_PAUSE_MS, app.log, async () => {
    if (await devices.endOld()) feed.changed();
  });
  const bookings = new BookingDesk({
    records,
    desk,
    invitations: desk.invitations,
    outbox,
    gateway,
    policy,
    technicians,
    mailFrom: config.mailFrom,
    publicUrl,
  });
  const reminding = new RepeatedWork('reminding of bookings', REMINDING_PAUSE_MS, app.log, async () => {
    if (await bookings.remind()) feed.changed();
  });
  const rotation = new RepeatedWork('changing codes', ROTATION_LOOK_MS, app.log, () => desk.rotateCodes());
  const routing = new RepeatedWork('routing the queue', ROUTING_PAUSE_MS, app.log, async () => {
    if (await queue.route()) feed.changed();
  });
  const bounceDoor =
    config.bouncePort !== undefined && config.bounceDomain
      ? new BounceDoor(config.host, config.bouncePort, app.log, (ref, report) => desk.invitations.report(ref, report))
      : undefined;

  const directory = config.directory ? new Directory(config.directory, secrets) : undefined;
  const parts: Parts = {
    directory,
    requestsNeedSignIn: config.requestsNeedSignIn,
    records,
    signIns: new SignIns(records, attempts),
    attempts,
    codes,
    desk,
    queue,
    states,
    notices: new NoticeDesk(records, outbox),
    tickets,
    ticketLists,
    outbox,
    feed,
    live,
    invitations: desk.invitations,
    bookings,
    devices,
    deviceGateway,
    shelf: config.release,
    templates: config.templates,
    mailFrom: config.mailFrom,
    ways: { hasMail: gateway.hasMail, hasTexts: gateway.hasTexts },
    policy,
    topics: config.topics,
    technicians,
    publicUrl,
    liveUrl: (request) => `${request.protocol === 'https' ? 'wss' : 'ws'}://${request.host}/live`,
    readLedger: async (id) => ({
      rows: await readRows(records.manager, id, 'session'),
      asideRows: await readRows(records.manager, id, 'aside'),
    }),
  };

  await app.register(swagger, {
    openapi: {
      openapi: '3.1.0',
      info: { title: 'Zesty Porch', version: '1', description: 'Attended support sessions.' },
    },
    transform: jsonSchemaTransform,
  });
  await app.register(helmet, {
    contentSecurityPolicy: {
      directives: {
        defaultSrc: ["'self'"],
        // The picture's kernel is WebAssembly, compiled in a worker of the page.
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        workerSrc: ["'self'"],
        // Naive UI writes its styles while running.
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        connectSrc: ["'self'", 'ws:', 'wss:'],
        frameAncestors: ["'none'"],
        upgradeInsecureRequests: null,
      },
    },
    hsts: false,
  });
  await app.register(cookie);
  await app.register(rateLimit, { max: REQUESTS_PER_MINUTE, timeWindow: 60_000 });
  await app.register(technicianRoutes, { ...parts, prefix: '/api' });
  await app.register(bookingRoutes, { ...parts, prefix: '/api' });
  await app.register(deviceRoutes, { ...parts, prefix: '/api' });
  await app.register(queueRoutes, { ...parts, prefix: '/api' });
  await app.register(invitationRoutes, { ...parts, prefix: '/api' });
  await app.register(doorRoutes, { ...parts, prefix: '/api' });
  if (config.release) await app.register(downloadRoutes, { ...parts, shelf: config.release, prefix: '/download' });
  if (config.ticketsKey) await app.register(webhookRoutes, { ...parts, ticketsKey: config.ticketsKey, prefix: '/api' });
  if (directory) await app.register(directoryRoutes, { ...parts, directory, prefix: '/api' });
  if (config.textsKey) await app.register(textReportRoutes, { ...parts, textsKey: config.textsKey, prefix: '/api' });
  app.get('/api/openapi.json', { schema: { hide: true } }, () => app.swagger());
  app.get('/api/health', { schema: { hide: true } }, async () => {
    await records.query('SELECT 1');
    return { isWell: true };
  });
  await servePages(app, config.webDir, config.embedOrigins);

  app.server.on('upgrade', (request: IncomingMessage, socket: Duplex, head: Buffer) => {
    const path = (request.url ?? '').split('?')[0];
    if (path === '/live') live.handleUpgrade(request, socket, head);
    else if (path === '/devices') deviceGateway.handleUpgrade(request, socket, head);
    else socket.end('HTTP/1.1 404 Not Found\r\nConnection: close\r\n\r\n');
  });
  app.addHook('onReady', async () => {
    const underWay = await records
      .getRepository(SessionEntity)
      .find({ select: { id: true }, where: [{ phase: 'joining' }, { phase: 'live' }], take: 1_000 });
    await live.reopen(underWay.map((s) => s.id));
    outbox.start({
      outcome: { carry: ({ ref, outcome }, id) => ticketSystem.logOutcome(ref, outcome, id) },
      newTicket: { carry: (parcel) => desk.makeTicket(ticketSystem, parcel) },
      invitation: desk.invitations.carrier,
      booking: bookings.carrier,
      remark: { carry: ({ ref, text }, id) => ticketSystem.comment(ref, text, id) },
    });
    await bounceDoor?.listen();
    routing.start();
    reminding.start();
    deviceGateway.serve(devices);
    deviceEnds.start();
    if (policy.codeRotateMs > 0) rotation.start();
  });
  app.addHook('preClose', async () => {
    feed.close();
    deviceGateway.close();
    await live.close();
    await outbox.close();
    await bounceDoor?.close();
    await rotation.close();
    await routing.close();
    await reminding.close();
    await deviceEnds.close();
    gateway.close();
  });
  app.addHook('onClose', () => records.destroy());
  return app;
}

/** The two sets of pages, built beforehand. Every path of theirs that is no file is their first page. */
async function servePages(
  app: FastifyInstance,
  webDir: string | undefined,
  embedOrigins: readonly string[],
): Promise<void> {
  const notFound = () => {
    throw new AppError('NOT_FOUND');
  };
  if (!webDir || !existsSync(join(webDir, 'console'))) {
    app.setNotFoundHandler(notFound);
    return;
  }
  await app.register(fastifyStatic, { root: webDir, serve: false });
  await app.register(fastifyStatic, {
    root: join(webDir, 'console'),
    prefix: '/console/',
    decorateReply: false,
    wildcard: false,
  });
  await app.register(fastifyStatic, {
    root: join(webDir, 'front-door'),
    prefix: '/',
    // Other sites load this one script; the rest is for our own pages alone.
    setHeaders: (reply, path) => {
      if (path.endsWith('/embed.js')) void reply.header('cross-origin-resource-policy', 'cross-origin');
    },
    decorateReply: false,
    wildcard: false,
  });
  app.setNotFoundHandler((request, reply) => {
    const path = request.url.split('?')[0] ?? '';
    const isPage = request.method === 'GET' && !path.startsWith('/api/') && !/\.[a-z0-9]+$/i.test(path);
    if (!isPage) return notFound();
    if (path === '/box') {
      // The one page that others may put into theirs, and only those the desk named.
      const policy = String(reply.getHeader('content-security-policy') ?? '');
      void reply
        .removeHeader('x-frame-options')
        .header(
          'content-security-policy',
          policy.replace("frame-ancestors 'none'", `frame-ancestors ${embedOrigins.join(' ') || "'none'"}`),
        );
    }
    return reply
      .header('cache-control', 'no-cache')
      .sendFile(path.startsWith('/console') ? 'console/index.html' : 'front-door/index.html');
  });
}
