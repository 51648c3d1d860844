import { isOver, refuse, stepsOf, type PolicyFor } from '@porch/core';
import type { ActionToRun, ChosenAction } from '@porch/wire';
import type { z } from 'zod';
import type { Technician } from '../people/technician.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { actionOf, hashOf } from './action-view.ts';
import type { RunbookDesk } from './runbook-desk.ts';

export interface ChoosingParts {
  readonly book: SessionBook;
  readonly policyFor: PolicyFor;
}

/**
 * A technician chooses an action for a session: its ledger says which very text they may run, and the customer's side runs
 * nothing else. Throws ACTION_NOT_FOUND, ACTION_NOT_APPROVED, NOT_PRESENT, SESSION_NOT_FOUND, SESSION_ENDED.
 */
export async function choose(
  me: Technician,
  sessionId: string,
  { runId, actionId, participantId }: z.output<typeof ChosenAction>,
  desk: RunbookDesk,
  { book, policyFor }: ChoosingParts,
): Promise<z.output<typeof ActionToRun>> {
  const { row, isDraft } = await desk.toRun(me, actionId, policyFor(me.team).mayRunDrafts);
  const { kind, body } = actionOf(row);
  await book.act(sessionId, ({ state }) => {
    if (isOver(state)) return refuse('SESSION_ENDED');
    const known = state.slices.runbook[runId];
    // Asked again, because the answer was lost: it is the same choice.
    if (known) return known.byId === participantId && known.actionId === actionId ? [] : refuse('NOT_PRESENT');
    const participant = state.participants[participantId];
    if (participant?.technicianId !== me.id || participant.isGone) return refuse('NOT_PRESENT');
    return [
      {
        ...{ type: 'runbook/chosen', by: participantId, participantId, runId, actionId },
        ...{ title: row.title, version: row.version, kind, hash: hashOf(row.text) },
        steps: kind === 'instruction' ? stepsOf(body).length : 0,
        isDraft: isDraft || undefined,
      },
    ];
  });
  return { runId, text: row.text };
}
