import { AppError, COMMAND_WINDOW, MAX_TEXT_BYTES, type ClientMessage } from '@porch/wire';

/** Commands that wait for an answer; more is a caller that never waits. */
const MAX_PENDING_COMMANDS = 500;

type Asking = Extract<ClientMessage, { type: 'command' | 'aside' }>;
interface Pending {
  readonly message: Asking;
  resolve(): void;
  reject(error: AppError): void;
}

/** What was asked and not answered, in the order in which it was given; those on their way are the first of it. */
export class PendingCommands {
  readonly #pending = new Map<string, Pending>();
  readonly #onTheirWay = new Set<string>();
  readonly #send: (message: Asking) => boolean;
  /** As many may be on their way at once as the service states. */
  window = COMMAND_WINDOW;

  /** `send` says false while there is no line. */
  constructor(send: (message: Asking) => boolean) {
    this.#send = send;
  }

  ask(message: Asking): Promise<void> {
    if (this.#pending.size >= MAX_PENDING_COMMANDS) return Promise.reject(new AppError('TOO_MANY_MESSAGES'));
    if (utf8Length(JSON.stringify(message)) > MAX_TEXT_BYTES) return Promise.reject(new AppError('MESSAGE_TOO_LARGE'));
    return new Promise((resolve, reject) => {
      this.#pending.set(message.id, { message, resolve, reject });
      this.#pump();
    });
  }

  /** A new line: nothing of it is on its way there yet. */
  sendAgain(): void {
    this.#onTheirWay.clear();
    this.#pump();
  }

  accepted(id: string): void {
    this.#answered(id)?.resolve();
  }
  refused(id: string, error: AppError): void {
    this.#answered(id)?.reject(error);
  }

  /** Nobody answers any longer. What `isTaken` knows to have been taken all the same has succeeded. */
  end(error: AppError, isTaken: (message: Asking) => boolean = () => false): void {
    for (const { message, resolve, reject } of this.#pending.values())
      if (isTaken(message)) resolve();
      else reject(error);
    this.#pending.clear();
  }

  #answered(id: string): Pending | undefined {
    const pending = this.#pending.get(id);
    this.#pending.delete(id);
    this.#onTheirWay.delete(id);
    this.#pump();
    return pending;
  }

  #pump(): void {
    for (const [id, { message }] of this.#pending) {
      if (this.#onTheirWay.size >= this.window) return;
      if (this.#onTheirWay.has(id)) continue;
      if (!this.#send(message)) return;
      this.#onTheirWay.add(id);
    }
  }
}

const utf8Length = (text: string): number => new TextEncoder().encode(text).length;
