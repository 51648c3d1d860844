/** What the porch is made of, as far as a change may be about a part of it. */
export type PorchPart =
  | 'waiting'
  | 'states'
  | 'sessions'
  | 'handovers'
  | 'bookings'
  | 'devices'
  | 'known-faults'
  | 'outbox'
  | 'tickets'
  | 'careful-acts';

/** What a change is about: without parts, anything; without technicians, anybody. */
export interface Scope {
  readonly parts?: readonly PorchPart[];
  readonly technicianIds?: readonly string[];
}

/** Says that something on the porch has changed: whoever shows it looks again. */
export class Changes {
  readonly #watchers = new Set<(scope: Scope) => void>();
  #version = 0;

  /** Grows with every change: what was worked out before is old. */
  get version(): number {
    return this.#version;
  }

  changed = (scope: Scope = {}): void => {
    this.#version++;
    for (const watcher of this.#watchers) watcher(scope);
  };

  /** The same, said by somebody who knows only that something is other now: it is about these parts. */
  of =
    (...parts: readonly PorchPart[]) =>
    (): void =>
      this.changed({ parts });

  /** Hands back what ends it. */
  watch(watcher: (scope: Scope) => void): () => void {
    this.#watchers.add(watcher);
    return () => this.#watchers.delete(watcher);
  }
}

/** What both are about. */
export function bothOf(a: Scope, b: Scope): Scope {
  const union = <T>(one: readonly T[] | undefined, other: readonly T[] | undefined) =>
    one && other ? [...new Set([...one, ...other])] : undefined;
  const parts = union(a.parts, b.parts);
  const technicianIds = union(a.technicianIds, b.technicianIds);
  return { ...(parts ? { parts } : {}), ...(technicianIds ? { technicianIds } : {}) };
}
