import type { Listeners } from '@porch/client';
import type { Answer, PersonPort, Question } from '@porch/host';
import type { XInput } from 'x11';
import type { XConnection } from '../server/connection.ts';
import type { Wishes } from '../wishes.ts';
import { followLocalInput } from './local-input.ts';
import { askOnScreen } from './question-window.ts';

/** The person at this desktop. */
export class X11Person implements PersonPort {
  readonly #x: XConnection;
  readonly #xinput: XInput;
  readonly #inSecret: <T>(put: () => Promise<T>) => Promise<T>;
  readonly #listeners = new Set<() => void>();

  private constructor(x: XConnection, xinput: XInput, inSecret: <T>(put: () => Promise<T>) => Promise<T>) {
    this.#x = x;
    this.#xinput = xinput;
    this.#inSecret = inSecret;
  }

  /** `inSecret` keeps what is put meanwhile out of every picture. */
  static async open(
    x: XConnection,
    xinput: XInput,
    wishes: Listeners<Wishes>,
    inSecret: <T>(put: () => Promise<T>) => Promise<T>,
  ): Promise<X11Person> {
    const person = new X11Person(x, xinput, inSecret);
    await followLocalInput(x, xinput, wishes, () => person.#listeners.forEach((listener) => listener()));
    return person;
  }

  ask(question: Question, signal: AbortSignal): Promise<Answer | undefined> {
    const put = () => askOnScreen(this.#x, this.#xinput, question, signal);
    return question.isSecret ? this.#inSecret(put) : put();
  }

  onLocalInput(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
}
