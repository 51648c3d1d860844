import { consentHolderOf, type SessionState } from '@porch/core';
import type { CustomerStep, PresenceRow } from '@porch/wire';

/** Where the customer is on the way in, as their programs say. Doorstep, once it is there, says it; what their page said before is over. */
export function customerStep(state: SessionState, rows: readonly PresenceRow[]): CustomerStep | undefined {
  const holder = rows.find((row) => row.participantId === state.holderId && row.isConnected);
  const isDoorstep = consentHolderOf(state)?.part === 'doorstep';
  return holder && isDoorstep ? (holder.step ?? 'ready') : rows.find((row) => row.step)?.step;
}
