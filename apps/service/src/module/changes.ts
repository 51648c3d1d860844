/** Says that something on the porch has changed: whoever shows it looks again. */
export class Changes {
  readonly #watchers = new Set<() => void>();
  #version = 0;

  /** Grows with every change: what was worked out before is old. */
  get version(): number {
    return this.#version;
  }

  changed = (): void => {
    this.#version++;
    for (const watcher of this.#watchers) watcher();
  };

  /** Hands back what ends it. */
  watch(watcher: () => void): () => void {
    this.#watchers.add(watcher);
    return () => this.#watchers.delete(watcher);
  }
}
