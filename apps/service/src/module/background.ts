import type { FastifyBaseLogger } from 'fastify';

/**
 * Who hears the end of work that nobody waits for. Its failure is logged with what it was, and counted; it never ends the
 * process, and nothing that throws in it reaches whoever began it.
 */
export class Background {
  readonly #log: FastifyBaseLogger;
  #failures = 0;

  constructor(log: FastifyBaseLogger) {
    this.#log = log;
  }

  get failures(): number {
    return this.#failures;
  }

  run(what: string, work: () => unknown): void {
    const failed = (error: unknown) => {
      this.#failures++;
      this.#log.error({ err: error, what }, 'work in the background failed');
    };
    try {
      Promise.resolve(work()).then(undefined, failed);
    } catch (error) {
      failed(error);
    }
  }
}
