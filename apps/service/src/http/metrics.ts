import { collectDefaultMetrics, Counter, Gauge, Registry } from 'prom-client';
import { refusalOf } from '../refusal-of.ts';
import type { Figure } from './figure.ts';

/** What the service says of itself in numbers, in the exposition format that Prometheus reads. */
export class Metrics {
  readonly registry = new Registry();
  readonly #refusals: Counter<'code'>;

  constructor(figures: readonly Figure[]) {
    const { registry } = this;
    // Event-loop delay, memory, processor time.
    collectDefaultMetrics({ register: registry, prefix: 'porch_' });
    for (const { name, help, read } of figures)
      new Gauge({
        name,
        help,
        registers: [registry],
        async collect() {
          const value = await whileReadable(read);
          if (value !== undefined) this.set(value);
        },
      });
    this.#refusals = new Counter({
      name: 'porch_refusals_total',
      help: 'Requests refused, by code',
      labelNames: ['code'],
      registers: [registry],
    });
  }

  refused(code: string): void {
    this.#refusals.inc({ code });
  }
}

/** While the records are away nothing can be read from them: a scrape must not fail with them. */
async function whileReadable(read: Figure['read']): Promise<number | undefined> {
  try {
    return await read();
  } catch (error) {
    if (refusalOf(error).code === 'RECORDS_DOWN') return undefined;
    throw error;
  }
}
