import { isOver, mayDo, refuse, type Thing } from '@porch/core';
import { AppError } from '@porch/wire';
import { permit } from '../../auth/permit.ts';
import type { Additions } from '../../module/added.ts';
import type { OpenSession } from '../../module/open-session.ts';
import type { Technician, Technicians } from '../people/technician.ts';
import type { SessionBook } from './session-book.ts';
import { CommandAnswerEntity } from './session-tables.ts';

export interface SessionDeskParts {
  readonly book: SessionBook;
  readonly technicians: Technicians;
  readonly additions: Pick<Additions, 'erase' | 'erased'>;
}

/** What technicians do with a session as a whole: read it back, and erase the people in it. */
export class SessionDesk {
  readonly #parts: SessionDeskParts;

  constructor(parts: SessionDeskParts) {
    this.#parts = parts;
  }

  /** The session as its technicians may see it. Throws SESSION_NOT_FOUND for those who have nothing to do with it. */
  async read(
    me: Technician,
    id: string,
    action: 'read a session' | 'join a session' = 'read a session',
  ): Promise<OpenSession> {
    const session = await this.#parts.book.open(id);
    if (!mayDo(me, action, this.#thingFor(me, session))) throw new AppError('SESSION_NOT_FOUND');
    return session;
  }

  /**
   * Deletes what is personal of a session, words and names alike, in every table and in one transaction; the chain goes on to verify. A lead's
   * right. Done again it finds nothing, and says so with 0.
   */
  async erase(me: Technician, id: string, rule: string): Promise<number> {
    const { book, additions } = this.#parts;
    const opened = await book.open(id);
    permit(me, 'erase a session', this.#thingFor(me, opened));
    let erased = 0;
    await book.act(id, async ({ state }, _nowMs, tx) => {
      if (!isOver(state)) return refuse('SESSION_NOT_ENDED');
      const entries = await book.entries(tx, id);
      const seqs = entries.filter((e) => 'personal' in e.event && e.event.personal).map((e) => e.seq);
      erased = seqs.length;
      await tx.query(
        `UPDATE "ledger_row" SET "salt" = NULL, "body" = NULL WHERE "session_id" = $1 AND ("chain" = 'aside' OR "seq" = ANY($2))`,
        [id, seqs],
      );
      await tx.getRepository(CommandAnswerEntity).delete({ sessionId: id });
      await additions.erase(tx, id);
      return seqs.length ? [{ type: 'personErased', by: `technician:${me.id}`, seqs, rule }] : [];
    });
    // What memory still knows must go too; read again, the session has no names and no words.
    book.forget(id);
    additions.erased(id);
    return erased;
  }

  #thingFor(me: Technician, { state }: OpenSession): Thing {
    return {
      ownerId: state.technicianId,
      ownerTeam: this.#parts.technicians.get(state.technicianId ?? '')?.team,
      wasIn: Object.values(state.participants).some((p) => p.technicianId === me.id),
      offeredTo: state.handover?.toTechnicianId,
      isAccepted: state.handover?.stage === 'accepted',
      isLetIn: Object.hasOwn(state.letIn, me.id),
    };
  }
}
