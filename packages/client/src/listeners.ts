/** Named listeners with typed values. `on` hands back what takes the listener off again. */
export class Listeners<Events extends object> {
  readonly #byName = new Map<keyof Events, Set<(value: never) => void>>();

  on<K extends keyof Events>(name: K, listener: (value: Events[K]) => void): () => void {
    const set = this.#byName.get(name) ?? new Set();
    this.#byName.set(name, set);
    set.add(listener);
    return () => set.delete(listener);
  }

  emit<K extends keyof Events>(name: K, value: Events[K]): void {
    for (const listener of [...(this.#byName.get(name) ?? [])]) (listener as (value: Events[K]) => void)(value);
  }

  clear(): void {
    this.#byName.clear();
  }
}
