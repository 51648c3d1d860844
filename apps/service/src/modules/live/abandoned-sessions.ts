import { isOver, type PolicyFor } from '@porch/core';
import type { Clock } from '@porch/wire';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionLists } from '../sessions/session-lists.ts';

export interface AbandonedSessionsParts {
  readonly book: SessionBook;
  readonly lists: SessionLists;
  readonly policyFor: PolicyFor;
  readonly clock: Clock;
  /** Whether this process has it open for somebody. */
  isHere(sessionId: string): boolean;
  hasTechnician(sessionId: string): boolean;
}

/**
 * Sessions that nobody is in: their participants leave when the usual grace is over, and what no technician has been in
 * for long is ended. One by one, without keeping them in memory.
 */
export class AbandonedSessions {
  readonly #parts: AbandonedSessionsParts;
  readonly #startedAtMs: number;

  constructor(parts: AbandonedSessionsParts) {
    this.#parts = parts;
    this.#startedAtMs = parts.clock.nowMs();
  }

  async end(): Promise<void> {
    const { book, lists, policyFor, clock, isHere, hasTechnician } = this.#parts;
    const { graceMs, abandonedAfterMs } = policyFor();
    // After a start everybody has the usual grace to come back.
    if (clock.nowMs() - this.#startedAtMs < graceMs) return;
    for (const { id, isOld } of await lists.maybeAbandoned(abandonedAfterMs)) {
      if (hasTechnician(id) || (isHere(id) && !isOld)) continue;
      await book.act(id, ({ state }) => {
        if (isOver(state) || hasTechnician(id)) return [];
        if (isOld) return [{ type: 'sessionEnded', by: 'service', reason: 'nobody', why: 'no technician was there' }];
        if (isHere(id)) return [];
        return Object.values(state.participants)
          .filter((p) => !p.isGone)
          .map((p) => ({ type: 'participantLeft', by: 'service', participantId: p.id, reason: 'the line was lost' }));
      });
      if (!isHere(id)) book.forget(id);
    }
  }
}
