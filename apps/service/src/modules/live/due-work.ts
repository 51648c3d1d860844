import { AppError, type Clock } from '@porch/wire';
import type { FastifyBaseLogger } from 'fastify';
import type { Background } from '../../module/background.ts';
import type { SessionBook } from '../sessions/session-book.ts';

/** What was due and could not be written is tried again, first after this, then seldomer. */
const AGAIN_FIRST_MS = 500;
const AGAIN_LAST_MS = 10_000;

export interface DueWorkParts {
  readonly sessionId: string;
  readonly book: SessionBook;
  readonly background: Background;
  readonly log: FastifyBaseLogger;
  readonly clock: Clock;
  /** It is written. */
  onDone(): void;
}

/** What is due in a session is done, however long the records are away: it is tried until it is written. */
export class DueWork {
  readonly #parts: DueWorkParts;
  #tries = 0;
  #endTryingAgain: () => void = () => undefined;
  #isClosed = false;

  constructor(parts: DueWorkParts) {
    this.#parts = parts;
  }

  act(decide: Parameters<SessionBook['act']>[1]): void {
    if (this.#isClosed) return;
    const { sessionId, book, log, background, clock, onDone } = this.#parts;
    background.run('what was due in a session', async () => {
      try {
        await book.act(sessionId, decide);
        this.#tries = 0;
        onDone();
      } catch (error) {
        if (error instanceof AppError && error.code === 'SESSION_NOT_FOUND') return;
        if (this.#tries === 0) log.warn({ err: error, sessionId }, 'what was due could not be written yet');
        const waitMs = Math.min(AGAIN_LAST_MS, AGAIN_FIRST_MS * 2 ** Math.min(6, this.#tries++));
        this.#endTryingAgain = clock.after(waitMs, () => this.act(decide));
      }
    });
  }

  close(): void {
    this.#isClosed = true;
    this.#endTryingAgain();
  }
}
