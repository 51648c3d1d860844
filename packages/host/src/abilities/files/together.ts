import type { Clock } from '@porch/wire';

/** What was announced and does not come in this time is not waited for. */
const PATIENCE_MS = 5_000;
/** Sets that are announced and never offered: the oldest gives way. */
const MOST_SETS = 8;

interface FileSet {
  readonly ids: readonly string[];
  readonly here: string[];
  endWaiting?: () => void;
}

/** Files that are offered one after the other and asked for in one question. */
export class Together {
  readonly #clock: Clock;
  readonly #ask: (fileIds: readonly string[]) => void;
  #sets: FileSet[] = [];

  constructor(clock: Clock, ask: (fileIds: readonly string[]) => void) {
    this.#clock = clock;
    this.#ask = ask;
  }

  /** These are offered next. */
  announce(ids: readonly string[]): void {
    this.#sets.push({ ids, here: [] });
    if (this.#sets.length > MOST_SETS) this.#sets.shift()?.endWaiting?.();
  }

  /** One was offered: asked for with the others of its set once all are here, or no more come. */
  offered(fileId: string): void {
    const set = this.#sets.find(({ ids }) => ids.includes(fileId));
    if (!set) return this.#ask([fileId]);
    set.here.push(fileId);
    set.endWaiting?.();
    if (set.here.length === set.ids.length) this.#close(set);
    else set.endWaiting = this.#clock.after(PATIENCE_MS, () => this.#close(set));
  }

  close(): void {
    for (const { endWaiting } of this.#sets) endWaiting?.();
    this.#sets = [];
  }

  #close(set: FileSet): void {
    this.#sets = this.#sets.filter((one) => one !== set);
    set.endWaiting?.();
    this.#ask(set.here);
  }
}
