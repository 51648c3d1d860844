import { collectDefaultMetrics, Counter, Gauge, Registry } from 'prom-client';

export interface MetricSources {
  sockets(): number;
  openSessions(): number;
  deskReaders(): number;
  backgroundFailures(): number;
  unhandledRejections(): number;
  /** Read from the records: how many wait, how many sessions are under way, how old the oldest parcel is, in seconds. */
  records(): Promise<{ waiting: number; underWay: number; outboxAgeSeconds: number } | undefined>;
}

/** What the service says of itself in numbers, in the exposition format that Prometheus reads. */
export class Metrics {
  readonly registry = new Registry();
  readonly #refusals: Counter<'code'>;

  constructor(from: MetricSources) {
    const { registry } = this;
    // Event-loop delay, memory, processor time.
    collectDefaultMetrics({ register: registry, prefix: 'porch_' });
    const gauge = (name: string, help: string, read: () => number) =>
      new Gauge({
        name,
        help,
        registers: [registry],
        collect() {
          this.set(read());
        },
      });
    gauge('porch_live_sockets', 'Live connections, strangers included', from.sockets);
    gauge('porch_open_sessions', 'Sessions that this process has in memory for somebody', from.openSessions);
    gauge('porch_desk_readers', 'Consoles that read the porch', from.deskReaders);
    gauge('porch_background_failures', 'Work in the background that failed', from.backgroundFailures);
    gauge('porch_unhandled_rejections', 'Promises that failed and that nobody waited for', from.unhandledRejections);
    const underWay = new Gauge({
      name: 'porch_sessions_under_way',
      help: 'Sessions joined or live',
      registers: [registry],
    });
    const outboxAge = new Gauge({
      name: 'porch_outbox_age_seconds',
      help: 'Age of the oldest parcel',
      registers: [registry],
    });
    new Gauge({
      name: 'porch_waiting_customers',
      help: 'Customers in the queue',
      registers: [registry],
      async collect() {
        const now = await from.records();
        if (!now) return;
        this.set(now.waiting);
        underWay.set(now.underWay);
        outboxAge.set(now.outboxAgeSeconds);
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
