import type { OpenSession } from '../../module/open-session.ts';

/** Sessions kept in memory; the oldest that nobody holds go first. What is dropped is read again from the records. */
const MAX_CACHED_SESSIONS = 500;

/** The sessions that this process knows whole. */
export class SessionCache {
  readonly #sessions = new Map<string, OpenSession>();
  readonly #held = new Map<string, number>();

  get(id: string): OpenSession | undefined {
    return this.#sessions.get(id);
  }

  keep(session: OpenSession): void {
    this.#sessions.delete(session.id);
    this.#sessions.set(session.id, session);
    for (const id of this.#sessions.keys()) {
      if (this.#sessions.size - this.#held.size <= MAX_CACHED_SESSIONS) return;
      if (!this.#held.has(id)) this.#sessions.delete(id);
    }
  }

  forget(id: string): void {
    this.#sessions.delete(id);
  }

  /** Stays until what this hands back is called: whoever is connected to a session needs all of it at every entry. */
  hold(id: string): () => void {
    this.#held.set(id, (this.#held.get(id) ?? 0) + 1);
    let isHeld = true;
    return () => {
      if (!isHeld) return;
      isHeld = false;
      const left = (this.#held.get(id) ?? 1) - 1;
      if (left > 0) this.#held.set(id, left);
      else this.#held.delete(id);
    };
  }
}
