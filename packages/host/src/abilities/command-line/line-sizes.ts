import type { Clock } from '@porch/wire';

/** All that stands there is laid out anew with each: what comes sooner waits, and the last of it counts. */
const LEAST_GAP_MS = 100;

/** How large a terminal is, however often somebody changes their mind. */
export class LineSizes {
  readonly #time: Clock;
  readonly #apply: (columns: number, rows: number) => void;
  #wanted: readonly [number, number] | undefined;
  #endWaiting: (() => void) | undefined;

  constructor(time: Clock, apply: (columns: number, rows: number) => void) {
    this.#time = time;
    this.#apply = apply;
  }

  set(columns: number, rows: number): void {
    this.#wanted = [columns, rows];
    if (!this.#endWaiting) this.#next();
  }
  close(): void {
    this.#endWaiting?.();
    this.#wanted = undefined;
  }

  #next(): void {
    this.#endWaiting = undefined;
    if (!this.#wanted) return;
    this.#apply(...this.#wanted);
    this.#wanted = undefined;
    this.#endWaiting = this.#time.after(LEAST_GAP_MS, () => this.#next());
  }
}
