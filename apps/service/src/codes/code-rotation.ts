import type { FastifyBaseLogger } from 'fastify';

const LOOK_MS = 1_000;

/** Changes codes that nobody used for new ones, when the desk wants that: what was overheard is soon worth nothing. */
export class CodeRotation {
  readonly #rotate: () => Promise<void>;
  readonly #log: FastifyBaseLogger;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #isClosed = false;
  #round: Promise<void> = Promise.resolve();

  constructor(rotate: () => Promise<void>, log: FastifyBaseLogger) {
    this.#rotate = rotate;
    this.#log = log;
  }

  start(): void {
    this.#timer = setTimeout(() => {
      this.#round = this.#rotate()
        .catch((error: unknown) => this.#log.warn({ err: error }, 'codes could not be changed'))
        .finally(() => {
          if (!this.#isClosed) this.start();
        });
    }, LOOK_MS);
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    clearTimeout(this.#timer);
    await this.#round;
  }
}
