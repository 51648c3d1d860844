import type { FastifyBaseLogger } from 'fastify';

/** Work that is done again and again, a pause after each time; one that fails is logged, and done again. */
export class RepeatedWork {
  readonly #what: string;
  readonly #pauseMs: number;
  readonly #work: () => Promise<unknown>;
  readonly #log: FastifyBaseLogger;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #isClosed = false;
  #round: Promise<unknown> = Promise.resolve();

  constructor(what: string, pauseMs: number, log: FastifyBaseLogger, work: () => Promise<unknown>) {
    this.#what = what;
    this.#pauseMs = pauseMs;
    this.#log = log;
    this.#work = work;
  }

  start(): void {
    this.#timer = setTimeout(() => {
      this.#round = this.#work()
        .catch((error: unknown) =>
          this.#log.warn({ err: error, what: this.#what }, 'work that is done again and again failed; trying again'),
        )
        .finally(() => {
          if (!this.#isClosed) this.start();
        });
    }, this.#pauseMs);
  }

  /** Waits for what is being done. */
  async close(): Promise<void> {
    this.#isClosed = true;
    clearTimeout(this.#timer);
    await this.#round;
  }
}
