import type { LiveConnection } from '@porch/client';
import type { PersonPort } from '../ports/desktop-ports.ts';
import type { Answer, Question } from '../ports/question.ts';

/** Whatever is asked of the person here: one thing at a time, and the desk sees that a question is open. */
export class QuestionQueue {
  readonly #person: Pick<PersonPort, 'ask'>;
  readonly #connection: LiveConnection;
  readonly #onChanged: () => void;
  readonly #closing = new AbortController();
  #queue: Promise<unknown> = Promise.resolve();
  #isOpen = false;

  constructor(person: Pick<PersonPort, 'ask'>, connection: LiveConnection, onChanged: () => void) {
    this.#person = person;
    this.#connection = connection;
    this.#onChanged = onChanged;
  }

  get isOpen(): boolean {
    return this.#isOpen;
  }

  /** Runs when everything before it was answered; several questions may be put in one turn. */
  inTurn<T>(
    work: (put: (question: Question, signal?: AbortSignal) => Promise<Answer | undefined>) => Promise<T>,
  ): Promise<T> {
    const mine = this.#queue.then(() => work((question, signal) => this.#put(question, signal)));
    this.#queue = mine.catch(() => undefined); // Whoever asked hears it.
    return mine;
  }

  /** Takes the open question away, and asks nothing more. */
  close(): void {
    this.#closing.abort();
  }

  async #put(question: Question, signal?: AbortSignal): Promise<Answer | undefined> {
    const until = signal ? AbortSignal.any([signal, this.#closing.signal]) : this.#closing.signal;
    if (until.aborted) return undefined;
    this.#isOpen = true;
    this.#onChanged();
    this.#connection.tellStep('prompt-open');
    try {
      return await this.#person.ask(question, until);
    } finally {
      this.#isOpen = false;
      this.#connection.tellStep('ready');
      this.#onChanged();
    }
  }
}
