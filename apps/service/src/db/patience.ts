const TICK_MS = 250;

/**
 * How long something may take, in time in which this process ran. A machine that stood still, as virtual ones do for
 * seconds, kept nobody from answering: what was answered meanwhile is read first.
 */
export class Patience {
  #leftMs: number;
  readonly #timer: ReturnType<typeof setInterval>;
  #giveUp: () => void = () => undefined;

  constructor(forMs: number) {
    this.#leftMs = forMs;
    this.#timer = setInterval(() => {
      this.#leftMs -= TICK_MS;
      if (this.isOver) this.#giveUp();
    }, TICK_MS);
  }

  get isOver(): boolean {
    return this.#leftMs <= 0;
  }

  /** Throws `why` when patience ends first; what the work comes to then is nobody's business any longer. */
  async during<T>(work: Promise<T>, why: () => Error): Promise<T> {
    const tooLate = new Promise<never>((_resolve, reject) => {
      this.#giveUp = () => reject(why());
      if (this.isOver) this.#giveUp();
    });
    return Promise.race([work, tooLate]);
  }

  end(): void {
    clearInterval(this.#timer);
  }
}
