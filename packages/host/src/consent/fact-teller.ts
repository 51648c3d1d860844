import type { LiveConnection } from '@porch/client';
import type { SessionCommand } from '@porch/core';
import { AppError, type Clock } from '@porch/wire';
import type { HostLog } from '../kit.ts';

/** What was decided here and is still to be told, over crashes, too. */
export interface Journal {
  readonly waiting: readonly { readonly id: string; readonly command: SessionCommand }[];
  /** What it says holds from the moment it was added; `written` resolves when it will survive a crash. */
  add(make: (fact: number) => SessionCommand): {
    readonly id: string;
    readonly command: SessionCommand;
    readonly written: Promise<void>;
  };
  markDelivered(id: string): void;
}

/** A fact that was not taken is sent again, first after this, then seldomer. */
const DELIVER_AGAIN_FIRST_MS = 500;
const DELIVER_AGAIN_LAST_MS = 10_000;

/** Tells the service what the customer's side decided: each fact until it is taken. */
export class FactTeller {
  readonly #connection: LiveConnection;
  readonly #journal: Journal;
  readonly #time: Clock;
  readonly #log: HostLog;
  readonly #delivering = new Set<string>();
  readonly #off: () => void;
  #againMs = DELIVER_AGAIN_FIRST_MS;
  #cancelAgain: () => void = () => undefined;
  #isEnded = false;

  constructor(connection: LiveConnection, journal: Journal, time: Clock, log: HostLog) {
    this.#connection = connection;
    this.#journal = journal;
    this.#time = time;
    this.#log = log;
    this.#off = connection.on('caughtUp', () => this.deliver());
  }

  /** Writes a fact down and delivers it, now or when the line is back. */
  report(make: (fact: number) => SessionCommand): void {
    const { id, command, written } = this.#journal.add(make);
    written
      .then(() => this.#tell(id, command))
      .catch((error: unknown) => this.#log.error({ err: error }, 'a fact could not be told'));
  }

  /** Takes up what a crash or a lost line kept from being told. */
  deliver(): void {
    for (const { id, command } of this.#journal.waiting) this.#tell(id, command);
  }

  end(): void {
    this.#isEnded = true;
    this.#cancelAgain();
    this.#off();
  }

  /** Sent until it is taken; only an answer that would be the same again ends it. */
  #tell(id: string, command: SessionCommand): void {
    if (this.#isEnded || this.#delivering.has(id)) return;
    this.#delivering.add(id);
    this.#connection.command(command, id).then(
      () => {
        this.#delivering.delete(id);
        this.#journal.markDelivered(id);
        this.#againMs = DELIVER_AGAIN_FIRST_MS;
      },
      (error: unknown) => {
        this.#delivering.delete(id);
        const isFinal = error instanceof AppError && error.spec.isFinal;
        if (isFinal) this.#journal.markDelivered(id);
        else if (this.#connection.status !== 'closed') this.#tellAgainLater();
        this.#log.warn({ why: String(error), type: command.type, isFinal }, 'a fact was not taken');
      },
    );
  }

  #tellAgainLater(): void {
    this.#cancelAgain();
    this.#cancelAgain = this.#time.after(this.#againMs, () => this.deliver());
    this.#againMs = Math.min(DELIVER_AGAIN_LAST_MS, this.#againMs * 2);
  }
}
