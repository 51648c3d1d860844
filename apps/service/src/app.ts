import proxyAddr from '@fastify/proxy-addr';
import type { FastifyInstance } from 'fastify';
import { CodeSecrets } from './auth/tokens.ts';
import type { Config } from './config.ts';
import { serveRecords } from './db/served-records.ts';
import { addErrorReplies } from './http/error-replies.ts';
import type { Figure } from './http/figure.ts';
import { documentRoutes } from './http/document-routes.ts';
import { healthRoutes } from './http/health-routes.ts';
import { makeHttpServer, secureHttp } from './http/http-server.ts';
import { Metrics } from './http/metrics.ts';
import { servePages } from './http/pages.ts';
import { Additions } from './module/added.ts';
import { Background } from './module/background.ts';
import { Changes } from './module/changes.ts';
import { furnish } from './module/furnish.ts';
import { addressesOf, type Kit } from './module/kit.ts';
import { programVersion } from './module/program-version.ts';
import { Projecting } from './module/projecting.ts';
import { modules } from './modules/index.ts';
import { makeRecords } from './modules/records.ts';
import { readiness } from './readiness.ts';
import { serveUpgrades } from './sockets/upgrades.ts';

/** The whole service: its modules, on an HTTP server. Listening is the caller's business. */
export async function buildApp(config: Config): Promise<FastifyInstance> {
  const app = makeHttpServer(config);
  const records = makeRecords(config.databaseUrl, (error) =>
    app.log.warn({ err: error }, 'a connection to the records broke'),
  );
  const served = await serveRecords(records, config, app.log);
  const kit: Kit = {
    config,
    records,
    log: app.log,
    background: new Background(app.log),
    level: served.level,
    secrets: new CodeSecrets(...config.secrets),
    changes: new Changes(),
    additions: new Additions(),
    projecting: new Projecting({
      projections: modules.flatMap(({ projections }) => projections ?? []),
      onFault: (projection, sessionId, error) =>
        app.log.error({ err: error, projection, sessionId }, 'what is kept beside a ledger is behind it'),
    }),
    program: programVersion(process.argv[1] ?? process.execPath),
    ownerEpoch: served.ownerEpoch,
    ...addressesOf(app.server, config),
  };
  const { rooms, open, close } = await furnish(modules, kit);

  const metrics = new Metrics([...ownFigures(kit), ...rooms.flatMap((room) => room.figures ?? [])]);
  const ready = readiness(records);
  addErrorReplies(app, (code) => metrics.refused(code));
  await secureHttp(app, config);
  for (const room of rooms) room.beforeRoutes?.(app);
  for (const { plugin, prefix = '/api' } of rooms.flatMap((room) => room.routes ?? []))
    await app.register(plugin, { prefix });
  await app.register(documentRoutes, { publicUrl: kit.publicUrl });
  await app.register(healthRoutes, { metrics, notReady: ready.whyNot, records });
  await servePages(app, config.webDir, config.embedOrigins);
  serveUpgrades(
    app.server,
    Object.assign({}, ...rooms.map((room) => room.upgrades)),
    (request) => proxyAddr(request, config.trustProxy),
    (error) => app.log.error({ err: error }, 'a connection could not be taken'),
  );

  app.addHook('onReady', open);
  app.addHook('preClose', async () => {
    ready.drain();
    app.log.info('stopping: no new work is taken, and everybody is told to connect again');
    await close();
  });
  app.addHook('onClose', () => served.close());
  return app;
}

const ownFigures = ({ background, config }: Kit): Figure[] => [
  { name: 'porch_background_failures', help: 'Work in the background that failed', read: () => background.failures },
  {
    name: 'porch_unhandled_rejections',
    help: 'Promises that failed and that nobody waited for',
    read: () => config.unhandledRejections(),
  },
];
