import { AppError } from '@porch/wire';
import type { FastifyPluginAsync, FastifyRequest } from 'fastify';
import type { DataSource } from 'typeorm';
import type { Metrics } from './metrics.ts';

export interface HealthParts {
  readonly metrics: Metrics;
  readonly records: DataSource;
  /** Why the service should get no new work now; undefined when it may. */
  notReady(): Promise<string | undefined>;
}

/** From this machine itself, not through a proxy on it: how much goes on at a desk is nobody else's business. */
const isFromHere = ({ socket, headers }: FastifyRequest): boolean =>
  ['127.0.0.1', '::1', '::ffff:127.0.0.1'].includes(socket.remoteAddress ?? '') &&
  headers['x-forwarded-for'] === undefined &&
  headers['forwarded'] === undefined;

/** For whoever runs the service: alive, ready for work, and in numbers. No page, no person's data. */
export const healthRoutes: FastifyPluginAsync<HealthParts> = async (app, { metrics, records, notReady }) => {
  app.get('/api/health', async () => {
    await records.query('SELECT 1');
    return { isWell: true };
  });
  app.get('/healthz', (_request, reply) => reply.header('cache-control', 'no-store').send({ is: 'alive' }));
  app.get('/readyz', async (_request, reply) => {
    const why = await notReady();
    return reply
      .code(why === undefined ? 200 : 503)
      .header('cache-control', 'no-store')
      .send(why === undefined ? { is: 'ready' } : { is: 'not ready', why });
  });
  app.get('/metrics', async (request, reply) => {
    if (!isFromHere(request)) throw new AppError('NOT_FOUND');
    return reply
      .type(metrics.registry.contentType)
      .header('cache-control', 'no-store')
      .send(await metrics.registry.metrics());
  });
};
