import type { Clock } from '@porch/wire';

/** How long each who is expected back keeps their place, from when nobody of them was here any longer. */
export class Graces {
  readonly #clock: Clock;
  readonly #graceMs: () => number;
  readonly #onOver: (participantId: string) => void;
  /** What takes each off again. */
  readonly #running = new Map<string, () => void>();

  constructor(clock: Clock, graceMs: () => number, onOver: (participantId: string) => void) {
    this.#clock = clock;
    this.#graceMs = graceMs;
    this.#onOver = onOver;
  }

  get areAny(): boolean {
    return this.#running.size > 0;
  }

  /** Exactly these are expected from now on; who was before goes on with what is left to them. */
  expect(participantIds: ReadonlySet<string>): void {
    for (const id of [...this.#running.keys()]) if (!participantIds.has(id)) this.takeOff(id);
    for (const id of participantIds)
      if (!this.#running.has(id))
        this.#running.set(
          id,
          this.#clock.after(this.#graceMs(), () => this.#onOver(id)),
        );
  }

  takeOff(participantId: string): void {
    this.#running.get(participantId)?.();
    this.#running.delete(participantId);
  }

  close(): void {
    this.expect(new Set());
  }
}
