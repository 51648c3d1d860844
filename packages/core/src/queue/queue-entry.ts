import { refuse, type Decision } from '../decision.ts';
import { transitionBy } from '../transition.ts';

export type QueueEntryState =
  | { name: 'waiting'; sinceMs: number }
  | { name: 'taken'; sinceMs: number; technicianId: string; sessionId: string }
  | { name: 'left'; sinceMs: number };

export type QueueEntryEvent = { type: 'entryTaken'; technicianId: string; sessionId: string } | { type: 'entryLeft' };

export const evolveQueueEntry = transitionBy<QueueEntryState, QueueEntryEvent>({
  waiting: {
    entryTaken: (s, e) => ({ ...s, name: 'taken', technicianId: e.technicianId, sessionId: e.sessionId }),
    entryLeft: (s) => ({ ...s, name: 'left' }),
  },
  taken: {},
  left: {},
});

/** Two technicians may reach for the same entry; the first has it, and while it is offered, who it is offered to. */
export function decideTakeEntry(
  state: QueueEntryState,
  technicianId: string,
  sessionId: string,
  offeredTo?: string,
): Decision<QueueEntryEvent> {
  if (state.name === 'waiting' && offeredTo !== undefined && offeredTo !== technicianId) return refuse('ENTRY_OFFERED');
  return state.name === 'waiting' ? [{ type: 'entryTaken', technicianId, sessionId }] : refuse('ENTRY_NOT_WAITING');
}

/** Leaving is a fact. Once taken, the session is what the customer leaves, not the queue. */
export function decideLeaveEntry(state: QueueEntryState): readonly QueueEntryEvent[] {
  return state.name === 'waiting' ? [{ type: 'entryLeft' }] : [];
}
