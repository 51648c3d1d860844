/** Does the same work one time after another: however often it is asked for while it is under way, it is done once more. */
export class OnceMore {
  readonly #work: () => Promise<void>;
  #isUnderWay = false;
  #isDue = false;

  constructor(work: () => Promise<void>) {
    this.#work = work;
  }

  async run(): Promise<void> {
    this.#isDue = true;
    if (this.#isUnderWay) return;
    this.#isUnderWay = true;
    try {
      while (this.#isDue) {
        this.#isDue = false;
        await this.#work();
      }
    } finally {
      this.#isUnderWay = false;
    }
  }
}
