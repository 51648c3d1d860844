import { AppError, type Clock } from '@porch/wire';

/** Whoever does not answer within this, and of whom nothing comes, is not waited for any longer. */
const ANSWER_MS = 60_000;

interface Open {
  resolve(value: never): void;
  reject(error: Error): void;
  endWaiting(): void;
}

/** What was asked of the other side and not answered yet, by ids. */
export class OpenAnswers {
  readonly #clock: Clock;
  readonly #onSettled: (id: string) => void;
  readonly #answerMs: number;
  readonly #open = new Map<string, Open>();

  /** `onSettled`: answered, refused or given up; what belongs to it is not needed any longer. */
  constructor(clock: Clock, onSettled: (id: string) => void, answerMs = ANSWER_MS) {
    this.#clock = clock;
    this.#onSettled = onSettled;
    this.#answerMs = answerMs;
  }

  has(id: string): boolean {
    return this.#open.has(id);
  }

  /** Rejects with NO_CONSENT_HOLDER when `ask` reaches nobody, or nobody answers. */
  wait<T>(id: string, ask: () => boolean): Promise<T> {
    return new Promise((resolve, reject) => {
      this.#open.set(id, { resolve, reject, endWaiting: this.#giveUpLater(id) });
      if (!ask()) this.reject(id, new AppError('NO_CONSENT_HOLDER'));
    });
  }

  /** Something large may take long on a bad line: it is waited for as long as something of it moves. */
  waitOn(id: string): void {
    const open = this.#open.get(id);
    if (!open) return;
    open.endWaiting();
    open.endWaiting = this.#giveUpLater(id);
  }

  resolve(id: string, value: unknown): void {
    this.#settle(id, (open) => open.resolve(value as never));
  }
  reject(id: string, error: Error): void {
    this.#settle(id, (open) => open.reject(error));
  }
  close(): void {
    for (const id of [...this.#open.keys()]) this.reject(id, new AppError('NOT_PRESENT'));
  }

  #giveUpLater(id: string): () => void {
    return this.#clock.after(this.#answerMs, () => this.reject(id, new AppError('NO_CONSENT_HOLDER')));
  }
  #settle(id: string, how: (open: Open) => void): void {
    const open = this.#open.get(id);
    if (!open) return;
    this.#open.delete(id);
    open.endWaiting();
    this.#onSettled(id);
    how(open);
  }
}
