import type { FastifyPluginAsync } from 'fastify';
import type { Metrics } from './metrics.ts';

export interface HealthParts {
  readonly metrics: Metrics;
  /** Why the service should get no new work now; undefined when it may. */
  notReady(): Promise<string | undefined>;
}

/** For whoever runs the service: alive, ready for work, and in numbers. No page, no person's data. */
export const healthRoutes: FastifyPluginAsync<HealthParts> = async (app, { metrics, notReady }) => {
  const hidden = { schema: { hide: true } };
  app.get('/healthz', hidden, (_request, reply) => reply.header('cache-control', 'no-store').send({ is: 'alive' }));
  app.get('/readyz', hidden, async (_request, reply) => {
    const why = await notReady();
    return reply
      .code(why === undefined ? 200 : 503)
      .header('cache-control', 'no-store')
      .send(why === undefined ? { is: 'ready' } : { is: 'not ready', why });
  });
  app.get('/metrics', hidden, async (_request, reply) =>
    reply
      .type(metrics.registry.contentType)
      .header('cache-control', 'no-store')
      .send(await metrics.registry.metrics()),
  );
};
