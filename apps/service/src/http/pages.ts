import fastifyStatic, { type FastifyStaticOptions } from '@fastify/static';
import { AppError } from '@porch/wire';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { methodsAt } from './routes-known.ts';

const HASHED_FILE = 'public, max-age=31536000, immutable';

/** The two sets of pages, built beforehand. Every path of theirs that is no file is their first page. */
export async function servePages(
  app: FastifyInstance,
  webDir: string | undefined,
  embedOrigins: readonly string[],
): Promise<void> {
  const notFound = (request: FastifyRequest, reply: FastifyReply) => {
    const methods = methodsAt(request.url);
    if (!methods.length) throw new AppError('NOT_FOUND');
    void reply.header('allow', methods.join(', '));
    throw new AppError('METHOD_NOT_ALLOWED');
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
    if (!isPage) return notFound(request, reply);
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
