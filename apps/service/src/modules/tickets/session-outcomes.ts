import { draftsOf } from '../../module/drafts-of.ts';
import { actionsText, chatText, type Policy, type PolicyFor } from '@porch/core';
import type { EntityManager } from 'typeorm';
import type { Alongside } from '../../module/added.ts';
import type { SessionMoment } from '../../module/open-session.ts';
import type { Parcels, TicketOutcome } from '../../module/parcels.ts';
import type { Outbox } from '../outbox/outbox.ts';
import type { Technicians } from '../people/technician.ts';
import type { PolicyOf } from '../sessions/policy-of.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { outcomeText } from './mail-ticket-system.ts';
import type { TicketSystem } from './ticket-system.ts';

export interface SessionOutcomesParts {
  readonly policyFor: PolicyFor;
  readonly policyOf: PolicyOf;
  /** Without a ticket system there is nowhere to make one. */
  readonly hasTicketSystem: boolean;
  readonly outbox: Outbox;
  readonly ticketSystem: TicketSystem;
  readonly book: SessionBook;
  readonly technicians: Technicians;
}

/** What the ticket system learns of sessions: into the outbox in the same transaction in which it happens, never lost. */
export class SessionOutcomes {
  readonly #parts: SessionOutcomesParts;

  constructor(parts: SessionOutcomesParts) {
    this.#parts = parts;
  }

  alongside: Alongside = async (tx, session, events, nowMs) => {
    const { outbox } = this.#parts;
    for (const event of events) {
      const { ticketRef } = session.state;
      if (event.type === 'customerAccepted' && !ticketRef && this.#ticketIfNone(session) === 'at-start')
        await outbox.put(tx, session.id, 'newTicket', { sessionId: session.id }, nowMs);
      if (event.type === 'outcomeLogged')
        await this.#putOutcome(
          tx,
          session,
          { outcome: event.outcome, note: event.personal?.note ?? '', minutes: event.minutes },
          nowMs,
        );
    }
  };

  #ticketIfNone({ state }: SessionMoment): Policy['ticketIfNone'] {
    const { hasTicketSystem, policyOf } = this.#parts;
    return hasTicketSystem ? policyOf(state).ticketIfNone : 'never';
  }

  /** Makes the ticket, ties the session to it, and tells it the outcome. Safe to repeat. */
  async makeTicket({ sessionId, outcome }: Parcels['newTicket']): Promise<void> {
    const { book, technicians, ticketSystem } = this.#parts;
    const { state } = await book.open(sessionId);
    const technician = technicians.get(state.technicianId ?? '');
    const ref =
      state.ticketRef ??
      (await ticketSystem.create(
        {
          title: state.purpose ?? 'Support session',
          requester: { name: state.customerName ?? '', address: state.customerAddress ?? '' },
          technician: technician?.email ?? '',
          description: outcome ? outcomeText(outcome) : `Support session ${sessionId}`,
        },
        `session-${sessionId}`,
      ));
    if (!ref) return;
    await book.act(sessionId, ({ state: now }) =>
      now.ticketRef ? [] : [{ type: 'ticketAttached', by: 'service', ticketRef: ref }],
    );
    if (outcome) await ticketSystem.logOutcome(ref, outcome, `outcome-${sessionId}`);
  }

  async #putOutcome(
    tx: EntityManager,
    session: SessionMoment,
    said: Pick<TicketOutcome, 'outcome' | 'note' | 'minutes'>,
    nowMs: number,
  ): Promise<void> {
    const { outbox, policyFor, book } = this.#parts;
    const { id, state } = session;
    const reader = draftsOf(policyFor());
    const entries = await book.entries(tx, id);
    const outcome = {
      ...said,
      chat: chatText(entries, reader),
      actions: actionsText(entries, reader),
      sessionId: id,
      ledgerHead: `${entries.length}:${entries.at(-1)?.hash ?? ''}`,
    };
    if (state.ticketRef) await outbox.put(tx, id, 'outcome', { ref: state.ticketRef, outcome }, nowMs);
    else if (this.#ticketIfNone(session) !== 'never')
      await outbox.put(tx, id, 'newTicket', { sessionId: id, outcome }, nowMs);
  }
}
