import cookie from '@fastify/cookie';
import helmet from '@fastify/helmet';
import rateLimit from '@fastify/rate-limit';
import { nameSchemas } from '@porch/wire';
import Fastify, { LogController, type FastifyInstance } from 'fastify';
import { serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod';
import { randomUUID } from 'node:crypto';
import type { Config } from '../config.ts';
import { loggerOptions } from '../logging.ts';
import { refuseNul } from './no-nul.ts';

const MAX_BODY_BYTES = 64 * 1024;
const REQUESTS_PER_MINUTE = 1_200;
const HSTS_SECONDS = 180 * 24 * 60 * 60;
/** What our pages use of the browser, for themselves alone; the rest is off. */
const PERMISSIONS_POLICY =
  'camera=(self), microphone=(self), display-capture=(self), clipboard-read=(self), clipboard-write=(self), fullscreen=(self), geolocation=(), payment=(), usb=(), serial=(), bluetooth=(), midi=(), browsing-topics=()';

export type HttpSettings = Pick<Config, 'logLevel' | 'trustProxy' | 'publicUrl'>;

/** An HTTP server with nothing on it yet. */
export function makeHttpServer({ logLevel, trustProxy }: HttpSettings): FastifyInstance {
  // Before the first of them is looked at.
  nameSchemas();
  const app = Fastify({
    logger: loggerOptions(logLevel),
    genReqId: () => randomUUID(),
    bodyLimit: MAX_BODY_BYTES,
    trustProxy,
    forceCloseConnections: true,
    // Links and tokens may stand in a path or a query: the path alone is logged, and the door's not even that.
    logController: new LogController({ disableRequestLogging: true }),
  });
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  return app;
}

/** What every answer carries, and what no request may: before any route is added. */
export async function secureHttp(app: FastifyInstance, { publicUrl }: HttpSettings): Promise<void> {
  const isPublicSecure = publicUrl?.startsWith('https:') ?? false;
  const liveSources = publicUrl ? [publicUrl.replace(/^http/, 'ws').replace(/\/$/, '')] : ['ws:', 'wss:'];
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
  await app.register(rateLimit, { max: REQUESTS_PER_MINUTE, timeWindow: 60_000 });
}
