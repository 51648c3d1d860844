import { isOver, refuse, type PolicyFor, type SessionEvent } from '@porch/core';
import { AppError, type CodeView } from '@porch/wire';
import type { EntityManager } from 'typeorm';
import type { Technician } from '../people/technician.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { CodeDesk } from './code-desk.ts';

export interface SessionCodesParts {
  readonly book: SessionBook;
  readonly codes: CodeDesk;
  readonly policyFor: PolicyFor;
}

/** The one-time code of a session: a new one, none any longer, new digits for one that stood too long. */
export class SessionCodes {
  readonly #parts: SessionCodesParts;

  constructor(parts: SessionCodesParts) {
    this.#parts = parts;
  }

  /** Throws NOT_THE_LEAD, SESSION_ENDED. */
  async renew(me: Technician, id: string): Promise<CodeView> {
    const { book, codes } = this.#parts;
    let made: CodeView | undefined;
    await book.act(id, async ({ state }, nowMs, tx) => {
      if (state.technicianId !== me.id) return refuse('NOT_THE_LEAD');
      if (isOver(state)) return refuse('SESSION_ENDED');
      const withdrawn = await this.#withdraw(tx, me, id);
      const { row, event } = await codes.issue(tx, id, me.id, nowMs);
      made = codes.view(row, nowMs);
      return [...withdrawn, event];
    });
    if (!made) throw new AppError('INTERNAL');
    return made;
  }

  /** Throws NOT_THE_LEAD. */
  async withdraw(me: Technician, id: string): Promise<void> {
    await this.#parts.book.act(id, ({ state }, _nowMs, tx) =>
      state.technicianId === me.id ? this.#withdraw(tx, me, id) : refuse('NOT_THE_LEAD'),
    );
  }

  /** New digits for codes that stood too long; they end when the old ones would have. */
  async rotate(): Promise<void> {
    const { book, codes, policyFor } = this.#parts;
    const { codeRotateMs } = policyFor();
    // Given up since somebody saw that there was anything to do.
    if (codeRotateMs === 0) return;
    for (const id of await codes.stale(codeRotateMs))
      await book.act(id, async ({ state }, nowMs, tx) => {
        const old = await codes.current(tx, id);
        if (isOver(state) || old?.state !== 'free' || nowMs - old.issuedAt.getTime() < codeRotateMs) return [];
        await codes.withdraw(tx, old);
        const { event } = await codes.issue(tx, id, old.technicianId, nowMs, old.expiresAt);
        return [{ type: 'codeWithdrawn', by: 'service', codeId: old.id }, event];
      });
  }

  async #withdraw(tx: EntityManager, me: Technician, sessionId: string): Promise<SessionEvent[]> {
    const { codes } = this.#parts;
    const current = await codes.current(tx, sessionId);
    if (!current) return [];
    await codes.withdraw(tx, current);
    return [{ type: 'codeWithdrawn', by: `technician:${me.id}`, codeId: current.id }];
  }
}
