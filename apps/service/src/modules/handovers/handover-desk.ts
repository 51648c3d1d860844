import { closeHandover, refuse } from '@porch/core';
import { AppError, type PorchView } from '@porch/wire';
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

  /** What this technician is asked to take, each with what was written for them. */
  async offeredTo(me: Technician): Promise<PorchView['handovers']> {
    const nowMs = Date.now();
    return (await this.#offered(me)).flatMap(({ id, state, entries }) => {
      const request = entries.findLast((e) => e.event.type === 'handoverRequested')?.event;
      if (!state.handover || request?.type !== 'handoverRequested') return [];
      return [
        {
          handoverId: state.handover.id,
          sessionId: id,
          fromName: state.participants[state.handover.fromParticipantId]?.name ?? '',
          brief: request.personal?.brief ?? '',
          remainingMs: Math.max(0, state.handover.answerByMs - nowMs),
        },
      ];
    });
  }

  /** Answers the session. Throws HANDOVER_NOT_FOUND, HANDOVER_NOT_OPEN. */
  async answer(me: Technician, handoverId: string, answer: 'accept' | 'decline'): Promise<string> {
    const offered = (await this.#offered(me)).find((s) => s.state.handover?.id === handoverId);
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

  async #offered(me: Technician): Promise<OpenSession[]> {
    const { lists, book } = this.#parts;
    return Promise.all((await lists.offeredTo(me.id)).map((id) => book.open(id)));
  }
}
