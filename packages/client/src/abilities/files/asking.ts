import { consentHolderOf, isEffective, standingOf } from '@porch/core';
import { AppError, randomId, type FileMessage, type NameTold } from '@porch/wire';
import type { LiveConnection } from '../../live/live-connection.ts';
import type { FileTransfers } from './transfers.ts';
import { RefusedThere } from '../../refused-there.ts';

/** The person at the computer is asked for each file, and for each folder whose names are read. */
const QUESTION_MS = 180_000;

export interface NamesThere {
  /** Below the home folder of the person there; `~` for that itself. */
  readonly path: string;
  readonly names: readonly NameTold[];
  /** There is more in it than is told. */
  readonly isCut: boolean;
}

/** Their computer said why not, in words that every language has. */
export class FilesRefused extends RefusedThere {}

/** What a technician asks of the files there: one of them, or the names in a folder. */
export class FileAsking {
  readonly #connection: LiveConnection;
  readonly #transfers: FileTransfers;

  constructor(connection: LiveConnection, transfers: FileTransfers) {
    this.#connection = connection;
    this.#transfers = transfers;
  }

  /** Resolves with the id under which it is offered. Throws `FilesRefused`, or NO_CONSENT_HOLDER when nobody answers. */
  fetch(path: string): Promise<string> {
    const requestId = randomId(this.#connection.random);
    return this.#ask<string>({ type: 'fetch', requestId, path }, (message, done, fail) => {
      if (message.type === 'fetchStarted' && message.requestId === requestId) done(message.fileId);
      if (message.type === 'fetchRefused' && message.requestId === requestId) fail(message.why);
    });
  }

  /** The names in a folder. Throws as `fetch` does. */
  look(path: string): Promise<NamesThere> {
    const requestId = randomId(this.#connection.random);
    const names: NameTold[] = [];
    return this.#ask<NamesThere>({ type: 'look', requestId, path }, (message, done, fail) => {
      if (message.type === 'lookRefused' && message.requestId === requestId) fail(message.why);
      if (message.type !== 'names' || message.requestId !== requestId) return;
      names.push(...message.names);
      if (message.isLast) done({ path: message.path, names, isCut: message.isCut });
    });
  }

  get #mayFetch(): boolean {
    const { state, participantId, serviceNowMs } = this.#connection;
    return isEffective(standingOf(state, participantId, 'fetch-files'), serviceNowMs);
  }

  #ask<T>(
    question: FileMessage,
    hear: (message: FileMessage, done: (value: T) => void, fail: (why: string) => void) => void,
  ): Promise<T> {
    const holder = consentHolderOf(this.#connection.state);
    if (!holder) return Promise.reject(new AppError('NO_CONSENT_HOLDER'));
    // Without leave the relay passes nothing on, and no answer would come.
    const notAllowed = new FilesRefused('the customer has not allowed it');
    if (!this.#mayFetch) return Promise.reject(notAllowed);
    return new Promise<T>((resolve, reject) => {
      const end = () => {
        off();
        offEntries();
        endWaiting();
      };
      const offEntries = this.#connection.on('entry', () => {
        if (this.#mayFetch) return;
        end();
        reject(notAllowed);
      });
      const endWaiting = this.#connection.clock.after(QUESTION_MS, () => {
        end();
        reject(new AppError('NO_CONSENT_HOLDER'));
      });
      const off = this.#transfers.listeners.on('message', ({ fromSeat, message }) => {
        if (fromSeat !== holder.seat) return;
        hear(
          message,
          (value) => {
            end();
            resolve(value);
          },
          (why) => {
            end();
            reject(new FilesRefused(why));
          },
        );
      });
      this.#transfers.tell(holder.seat, question);
    });
  }
}
