import type { FastifyPluginAsync } from 'fastify';
import { docsPage } from './docs-page.ts';
import { openApiOf } from './openapi.ts';

/** What the API is: for programs, and for people. */
export const documentRoutes: FastifyPluginAsync<{ publicUrl(): string }> = async (app, { publicUrl }) => {
  // Made when it is first asked for: by then the address is known, and hardly anybody asks.
  let made: ReturnType<typeof openApiOf> | undefined;
  const document = () => (made ??= openApiOf(publicUrl()));
  app.get('/api/v1/openapi.json', async () => document());
  // Programs of before 2026-12 look for it here.
  app.get('/api/openapi.json', async () => document());
  app.get('/api/docs', async (_request, reply) => reply.type('text/html; charset=utf-8').send(docsPage(document())));
};
