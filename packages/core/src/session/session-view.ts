import type { SessionView } from '../ability/session-view.ts';
import { isOver, standingOf } from '../kernel/state.ts';
import type { Permission } from '../permission/permission.ts';
import { isEffective } from '../permission/permission-rules.ts';
import type { SessionState } from './session-state.ts';

/** The session as abilities see it. */
export const viewOf = (state: SessionState, nowMs: number): SessionView => ({
  nowMs,
  isOver: isOver(state),
  holderId: state.holderId,
  computer: state.computer,
  deviceLabel: state.deviceLabel,
  participants: state.participants,
  holds: (permission, participantId) => isEffective(standingOf(state, participantId, permission as Permission), nowMs),
  isProven: (participantId) => state.provenIds.includes(participantId),
});

/** Whether this technician's program is surely the one that the customer talks to: the same words, or a second secret. */
export const areWordsSame = (state: SessionState, participantId: string): boolean | undefined =>
  state.slices['check-words'][participantId] ?? (state.provenIds.includes(participantId) || undefined);
