import { isOver, refuse, rightsOf, stepsOf, type PolicyFor, type SessionState } from '@porch/core';
import { warrantBytes, type ActionToRun, type ChosenAction } from '@porch/wire';
import type { z } from 'zod';
import type { RightsKeys } from '../../auth/rights-keys.ts';
import type { Technician } from '../people/technician.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { actionOf, hashOf } from './action-view.ts';
import type { RunbookDesk } from './runbook-desk.ts';

export interface ChoosingParts {
  readonly book: SessionBook;
  readonly policyFor: PolicyFor;
  readonly rightsKeys: RightsKeys;
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
  { book, policyFor, rightsKeys }: ChoosingParts,
): Promise<z.output<typeof ActionToRun>> {
  const { row, isDraft } = await desk.toRun(me, actionId, policyFor(me.team).mayRunDrafts);
  const { kind, body, rights } = actionOf(row);
  const hash = hashOf(row.text);
  /** Where rights are by the desk's leave, by the key that the computer knows; elsewhere nobody asks for it. */
  const warrantFor = (byId: string, { slices }: SessionState): string | undefined => {
    const { way, leave } = rightsOf(slices['administrator-rights'], byId) ?? {};
    if (way !== 'desk' || !leave) return undefined;
    return rightsKeys.sign(leave.deskKey, warrantBytes({ sessionId, runId, hash }));
  };
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
        ...{ title: row.title, version: row.version, kind, hash },
        steps: kind === 'instruction' ? stepsOf(body).length : 0,
        isDraft: isDraft || undefined,
        // A draft is nobody's leave.
        ...(rights === 'administrator' && !isDraft ? { warrant: warrantFor(participantId, state) } : {}),
      },
    ];
  });
  return { runId, text: row.text };
}
