import type { Background } from './background.ts';

/** One piece of work at a time for each name, in the order in which it came. */
export class Turns {
  readonly #background: Background;
  readonly #last = new Map<string, Promise<unknown>>();

  constructor(background: Background) {
    this.#background = background;
  }

  take<T>(name: string, work: () => Promise<T>): Promise<T> {
    const before = this.#last.get(name) ?? Promise.resolve();
    const mine = before.then(work, work);
    const settled = mine.then(
      () => undefined,
      () => undefined,
    );
    this.#last.set(name, settled);
    this.#background.run('ending a turn', () =>
      settled.then(() => {
        if (this.#last.get(name) === settled) this.#last.delete(name);
      }),
    );
    return mine;
  }
}
