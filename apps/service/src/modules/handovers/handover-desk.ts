import { closeHandover, refuse } from '@porch/core';
import { AppError, type HandoverView } from '@porch/wire';
import type { OpenSession } from '../../module/open-session.ts';
import type { Technician } from '../people/technician.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionLists } from '../sessions/session-lists.ts';

export interface HandoverDeskParts {
  readonly book: SessionBook;
  readonly lists: SessionLists;
}

/** Sessions that a colleague is asked to go on with. */
export class HandoverDesk {
  readonly #parts: HandoverDeskParts;

  constructor(parts: HandoverDeskParts) {
    this.#parts = parts;
  }

  /** What each of these technicians is asked to take, with what was written for them. */
  async offeredToAny(technicianIds: readonly string[]): Promise<ReadonlyMap<string, HandoverView[]>> {
    const nowMs = Date.now();
    const offered = await this.#offered(technicianIds);
    const views = offered.flatMap(({ technicianId, session: { id, state, entries } }) => {
      const request = entries.findLast((e) => e.event.type === 'handoverRequested')?.event;
      if (!state.handover || request?.type !== 'handoverRequested') return [];
      const view: HandoverView = {
        handoverId: state.handover.id,
        sessionId: id,
        fromName: state.participants[state.handover.fromParticipantId]?.name ?? '',
        brief: request.personal?.brief ?? '',
        remainingMs: Math.max(0, state.handover.answerByMs - nowMs),
      };
      return [{ technicianId, view }];
    });
    return new Map(technicianIds.map((id) => [id, views.filter((v) => v.technicianId === id).map(({ view }) => view)]));
  }

  /** Answers the session. Throws HANDOVER_NOT_FOUND, HANDOVER_NOT_OPEN. */
  async answer(me: Technician, handoverId: string, answer: 'accept' | 'decline'): Promise<string> {
    const offered = (await this.#offered([me.id])).find(
      ({ session }) => session.state.handover?.id === handoverId,
    )?.session;
    if (!offered) throw new AppError('HANDOVER_NOT_FOUND');
    await this.#parts.book.act(offered.id, ({ state }, nowMs) => {
      // Answered already, and the answer was lost on its way: it is the same answer.
      if (answer === 'accept' && state.handover?.id === handoverId && state.handover.stage === 'accepted') return [];
      const isOpen =
        state.handover?.id === handoverId && state.handover.stage === 'offered' && nowMs < state.handover.answerByMs;
      if (!isOpen) return refuse('HANDOVER_NOT_OPEN');
      const by = `technician:${me.id}`;
      return answer === 'accept'
        ? [{ type: 'handoverAccepted', by, handoverId }]
        : closeHandover(state, by, 'declined');
    });
    return offered.id;
  }

  async #offered(technicianIds: readonly string[]): Promise<{ technicianId: string; session: OpenSession }[]> {
    const { lists, book } = this.#parts;
    const offered = await lists.offeredTo(technicianIds);
    return Promise.all(offered.map(async ({ id, technicianId }) => ({ technicianId, session: await book.open(id) })));
  }
}
