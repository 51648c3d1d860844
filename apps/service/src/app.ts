import cookie from '@fastify/cookie';
import helmet from '@fastify/helmet';
import rateLimit from '@fastify/rate-limit';
import fastifyStatic, { type FastifyStaticOptions } from '@fastify/static';
import swagger from '@fastify/swagger';
import { defaultPolicy, type Policy } from '@porch/core';
import proxyAddr from '@fastify/proxy-addr';
import { AppError, realClock, realRandomness } from '@porch/wire';
import Fastify, { LogController, type FastifyInstance } from 'fastify';
import { jsonSchemaTransform, serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod';
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { join } from 'node:path';
import { AskedWork } from './auth/asked-work.ts';
import { Attempts } from './auth/attempts.ts';
import { guardRoutes } from './auth/guard.ts';
import { SignIns } from './auth/sign-in.ts';
import { CodeSecrets } from './auth/tokens.ts';
import { Background } from './background.ts';
import { BookingDesk } from './bookings/booking-desk.ts';
import { CodeDesk } from './codes/code-desk.ts';
import type { Config } from './config.ts';
import { connectRecords, makeDataSource } from './db/data-source.ts';
import { readFigures } from './db/figures.ts';
import { WrittenLevel } from './db/records-level.ts';
import { migrateRecords } from './db/migrate.ts';
import { OwnerLock } from './db/owner-lock.ts';
import { DeviceDesk } from './devices/device-desk.ts';
import { DeviceGateway } from './devices/device-gateway.ts';
import { Directory } from './directory/directory.ts';
import { directoryRoutes } from './directory/directory-routes.ts';
import { downloadRoutes } from './downloads/download-routes.ts';
import { DoorPasses } from './door/door-passes.ts';
import { deskRoutes } from './http/desk-routes.ts';
import { doorRoutes } from './door/door-routes.ts';
import { addErrorReplies } from './http/error-replies.ts';
import { healthRoutes } from './http/health-routes.ts';
import { Metrics } from './http/metrics.ts';
import { refuseNul } from './http/no-nul.ts';
import { ConnectionPasses } from './live/connection-passes.ts';
import { ScreenshotDesk } from './modules/screenshot/screenshot-desk.ts';
import { LiveGateway } from './live/live-gateway.ts';
import { loggerOptions } from './logging.ts';
import { BounceDoor } from './messages/bounce-door.ts';
import { makeGateway } from './messages/outside-gateway.ts';
import { textReportRoutes } from './messages/text-report-routes.ts';
import { People } from './people/people.ts';
import { DeskFeed } from './porch/desk-feed.ts';
import { KnownFaultDesk } from './queue/known-fault-desk.ts';
import { QueueDesk } from './queue/queue-desk.ts';
import { TechnicianStates } from './queue/technician-states.ts';
import { refusalOf } from './refusal-of.ts';
import { RepeatedWork } from './repeated-work.ts';
import { serveUpgrades, type UpgradeHandler } from './sockets/upgrades.ts';
import { readRows } from './sessions/ledger-store.ts';
import { SessionDesk } from './sessions/session-desk.ts';
import { Outbox } from './tickets/outbox.ts';
import { MailTicketSystem } from './tickets/mail-ticket-system.ts';
import { NoTicketSystem, RestTicketSystem } from './tickets/rest-ticket-system.ts';
import { TicketLists } from './tickets/ticket-lists.ts';
import type { Parts } from './parts.ts';
import { webhookRoutes } from './tickets/webhook-routes.ts';

const MAX_BODY_BYTES = 64 * 1024;
const REQUESTS_PER_MINUTE = 1_200;
const ROTATION_LOOK_MS = 1_000;
const SEALING_PAUSE_MS = 2_000;
/** Who waits is looked at so often; an offer is there within it. */
const ROUTING_PAUSE_MS = 400;
const REMINDING_PAUSE_MS = 5_000;
const DEVICE_ENDS_PAUSE_MS = 5_000;
const SIGN_INS_PAUSE_MS = 5_000;
const PEOPLE_PAUSE_MS = 2_000;
const LEVEL_PAUSE_MS = 2_000;
const ABANDONED_PAUSE_MS = 2_000;
const OLD_TRIES_PAUSE_MS = 10 * 60_000;
const HASHED_FILE = 'public, max-age=31536000, immutable';
const HSTS_SECONDS = 180 * 24 * 60 * 60;
/** What our pages use of the browser, for themselves alone; the rest is off. */
const PERMISSIONS_POLICY =
  'camera=(self), microphone=(self), display-capture=(self), clipboard-read=(self), clipboard-write=(self), fullscreen=(self), geolocation=(), payment=(), usb=(), serial=(), bluetooth=(), midi=(), browsing-topics=()';

/** The whole service, wired in one place. Listening is the caller's business. */
export async function buildApp(config: Config): Promise<FastifyInstance> {
  const app = Fastify({
    logger: loggerOptions(config.logLevel),
    genReqId: () => randomUUID(),
    bodyLimit: MAX_BODY_BYTES,
    trustProxy: config.trustProxy,
    forceCloseConnections: true,
    // Links and tokens may stand in a path or a query: the path alone is logged, and the door's not even that.
    logController: new LogController({ disableRequestLogging: true }),
  });
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  const background = new Background(app.log);
  const records = makeDataSource(config.databaseUrl, (error) =>
    app.log.warn({ err: error }, 'a connection to the records broke'),
  );
  await connectRecords(records, () => app.log.warn('the records cannot be reached yet; waiting for them'));
  const ownerLock = new OwnerLock(config.databaseUrl, () => config.ownershipLost());
  await ownerLock.take();
  await migrateRecords(records);
  const [owner] = await records.query<[{ epoch: number }[], number]>(
    `UPDATE "session_owner" SET "epoch" = "epoch" + 1 WHERE "id" = 1 RETURNING "epoch"`,
  );
  const level = new WrittenLevel(records);
  await level.read();
  const people = new People(records);
  await people.read();
  const technicians = people.byId;

  const isPublicSecure = config.publicUrl?.startsWith('https:') ?? false;
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
    abandonedAfterMs: config.abandonedAfterMs,
    maxEntries: config.maxEntries,
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
  const feed = new DeskFeed(background);
  const outbox = new Outbox(records, app.log, feed.changed);
  const secrets = new CodeSecrets(...config.secrets);
  const attempts = new Attempts(records);
  const signIns = new SignIns(records, attempts, new AskedWork(secrets));
  const codes = new CodeDesk(secrets, policy.codeLifetimeMs);
  const states = new TechnicianStates(records, policy, technicians);
  const passes = new DoorPasses(records, secrets);
  const queue = new QueueDesk({ records, policy, states, technicians, passes });
  const desk: SessionDesk = new SessionDesk({
    records,
    background,
    passes,
    onErased: (id) => live.forget(id),
    codes,
    tickets: ticketLists,
    outbox,
    policy,
    level,
    queue,
    states,
    technicians,
    invitations: { secrets, gateway, ticketSystem, templates: config.templates, onChanged: feed.changed, publicUrl },
  });
  const connectionPasses = new ConnectionPasses(realClock);
  const live: LiveGateway = new LiveGateway({
    clock: realClock,
    random: realRandomness,
    book: desk.book,
    connectionPasses,
    log: app.log,
    background,
    ownerEpoch: owner[0]?.epoch ?? 0,
    onChanged: feed.changed,
    graceMs: config.graceMs,
    entered: (tx, passHash, participantId) => passes.entered(tx, passHash, participantId),
  });
  /** What is done again and again from the start to the end: named where it is, begun and ended together. */
  const repeated: RepeatedWork[] = [];
  const repeat = (what: string, pauseMs: number, work: () => Promise<void>): void => {
    repeated.push(new RepeatedWork(what, pauseMs, app.log, work));
  };
  const endSignIns = (ids: readonly string[]): void => {
    for (const id of ids) {
      live.endSignIn(id);
      feed.endSignIn(id);
    }
  };
  // What was ended elsewhere, ran out or was forbidden ends here, too; and sessions that nobody is in.
  repeat('ending what was opened with old sign-ins', SIGN_INS_PAUSE_MS, async () =>
    endSignIns(await signIns.ended([...new Set([...live.signIns, ...feed.signIns])])),
  );
  repeat('reading who works here', PEOPLE_PAUSE_MS, async () => {
    if (await people.read()) feed.changed();
  });
  repeat('reading how far an upgrade is', LEVEL_PAUSE_MS, () => level.read());
  repeat('forgetting old tries', OLD_TRIES_PAUSE_MS, () => attempts.forgetOld());
  const startedAtMs = performance.now();
  repeat('ending sessions that nobody is in', ABANDONED_PAUSE_MS, async () => {
    // After a start everybody has the usual grace to come back.
    if (performance.now() - startedAtMs < config.graceMs) return;
    await desk.endAbandoned(
      (id) => live.openSessions.includes(id),
      (id) => live.hasTechnician(id),
    );
    await passes.sweep();
  });
  desk.book.onAppended(feed.changed);

  const deviceGateway = new DeviceGateway(app.log, background, feed.changed);
  const devices = new DeviceDesk({ records, book: desk.book, policy, presenceOf: deviceGateway.presenceOf });
  repeat('ending old standing consents', DEVICE_ENDS_PAUSE_MS, async () => {
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
  repeat('reminding of bookings', REMINDING_PAUSE_MS, async () => {
    if (await bookings.remind()) feed.changed();
  });
  if (policy.codeRotateMs > 0) repeat('changing codes', ROTATION_LOOK_MS, () => desk.rotateCodes());
  repeat('routing the queue', ROUTING_PAUSE_MS, async () => {
    if (await queue.route()) feed.changed();
  });
  const bounceDoor =
    config.bouncePort !== undefined && config.bounceDomain
      ? new BounceDoor(config.host, config.bouncePort, app.log, (ref, report) => desk.invitations.report(ref, report))
      : undefined;

  const directory = config.directory ? new Directory(config.directory, secrets) : undefined;
  const screenshots = new ScreenshotDesk(records, desk.book, secrets);
  repeat('sealing screenshots anew', SEALING_PAUSE_MS, async () => {
    await screenshots.sealAnew();
  });
  const parts: Parts = {
    screenshots,
    directory,
    requestsNeedSignIn: config.requestsNeedSignIn,
    records,
    signIns,
    passes,
    endSignIns,
    attempts,
    codes,
    desk,
    queue,
    states,
    knownFaults: new KnownFaultDesk(records, outbox, technicians),
    connectionPasses,
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
    // What the desk says its address is counts; the request's own word on it is anybody's.
    liveUrl: (request) =>
      config.publicUrl
        ? `${config.publicUrl.replace(/^http/, 'ws').replace(/\/$/, '')}/live`
        : `${request.protocol === 'https' ? 'wss' : 'ws'}://${request.host}/live`,
    readLedger: async (id) => ({
      rows: await readRows(records.manager, id, 'session'),
      asideRows: await readRows(records.manager, id, 'aside'),
    }),
  };

  const metrics = new Metrics({
    sockets: () => live.sockets,
    openSessions: () => live.openSessions.length,
    deskReaders: () => feed.size,
    backgroundFailures: () => background.failures,
    unhandledRejections: config.unhandledRejections,
    records: () => readFigures(records),
  });
  addErrorReplies(app, (code) => metrics.refused(code));
  let isDraining = false;
  const notReady = async (): Promise<string | undefined> => {
    if (isDraining) return 'it is stopping';
    try {
      await records.query('SELECT 1');
      return (await records.showMigrations()) ? 'the records are of another release; migrate them' : undefined;
    } catch (error) {
      if (refusalOf(error).code !== 'RECORDS_DOWN') throw error;
      return 'the records cannot be reached';
    }
  };

  await app.register(swagger, {
    openapi: {
      openapi: '3.1.0',
      info: { title: 'Zesty Porch', version: '1', description: 'Attended support sessions.' },
    },
    transform: jsonSchemaTransform,
  });
  const liveSources = config.publicUrl ? [config.publicUrl.replace(/^http/, 'ws').replace(/\/$/, '')] : ['ws:', 'wss:'];
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
        // The live connection is ours alone: older browsers do not count it to 'self'.
        connectSrc: ["'self'", ...liveSources],
        frameAncestors: ["'none'"],
        upgradeInsecureRequests: null,
      },
    },
    hsts: isPublicSecure ? { maxAge: HSTS_SECONDS, includeSubDomains: false } : false,
  });
  await app.register(cookie);
  app.decorateRequest('isSecure', false);
  app.addHook('onRequest', (request, _reply, done) => {
    request.isSecure = isPublicSecure || request.protocol === 'https';
    done();
  });
  app.addHook('onRequest', async (request, reply) => {
    reply.header('x-request-id', request.id);
    reply.header('permissions-policy', PERMISSIONS_POLICY);
    // Whatever it answers is about people; a page's files say for themselves how long they keep.
    if (request.url.startsWith('/api/')) reply.header('cache-control', 'no-store');
  });
  refuseNul(app);
  guardRoutes(app, signIns);
  await app.register(rateLimit, { max: REQUESTS_PER_MINUTE, timeWindow: 60_000 });
  for (const routes of deskRoutes) await app.register(routes, { ...parts, prefix: '/api' });
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
  await app.register(healthRoutes, { metrics, notReady });
  await servePages(app, config.webDir, config.embedOrigins);

  const addressOf = (request: IncomingMessage): string => proxyAddr(request, config.trustProxy);
  const upgrades: Readonly<Record<string, UpgradeHandler>> = {
    '/live': (request, socket, head) => live.handleUpgrade(request, socket, head, addressOf(request)),
    '/devices': (request, socket, head) => deviceGateway.handleUpgrade(request, socket, head, addressOf(request)),
  };
  serveUpgrades(app.server, upgrades, (error) => app.log.error({ err: error }, 'a connection could not be taken'));
  app.addHook('onReady', async () => {
    outbox.start({
      outcome: { carry: ({ ref, outcome }, id) => ticketSystem.logOutcome(ref, outcome, id) },
      newTicket: { carry: (parcel) => desk.makeTicket(ticketSystem, parcel) },
      invitation: desk.invitations.carrier,
      booking: bookings.carrier,
      remark: { carry: ({ ref, text }, id) => ticketSystem.comment(ref, text, id) },
    });
    await bounceDoor?.listen();
    deviceGateway.serve(devices);
    for (const work of repeated) work.start();
  });
  app.addHook('preClose', async () => {
    isDraining = true;
    app.log.info('stopping: no new work is taken, and everybody is told to connect again');
    feed.close();
    deviceGateway.close();
    await live.close();
    await outbox.close();
    await bounceDoor?.close();
    await Promise.all(repeated.map((work) => work.close()));
    gateway.close();
  });
  app.addHook('onClose', async () => {
    await ownerLock.close();
    await records.destroy();
  });
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
  // What the build compressed is sent as it is; files with a hash in their name are the same for ever.
  const shared = { preCompressed: true, cacheControl: false };
  const setHeaders: FastifyStaticOptions['setHeaders'] = (reply, path) => {
    void reply.header('cache-control', path.includes('/assets/') ? HASHED_FILE : 'no-cache');
    // Other sites load this one script; the rest is for our own pages alone.
    if (/\/embed\.js(\.\w+)?$/.test(path)) void reply.header('cross-origin-resource-policy', 'cross-origin');
  };
  await app.register(fastifyStatic, { ...shared, root: webDir, serve: false });
  const serve = { ...shared, setHeaders, decorateReply: false, wildcard: false };
  await app.register(fastifyStatic, { ...serve, root: join(webDir, 'console'), prefix: '/console/' });
  await app.register(fastifyStatic, { ...serve, root: join(webDir, 'front-door'), prefix: '/' });
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
