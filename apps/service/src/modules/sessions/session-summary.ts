import { minutesIn, presentParticipants, type SessionState } from '@porch/core';
import type { SessionRow } from './session-tables.ts';

/** What a list shows of a session, and what the desk asks of all of them: read off its state, when it last changed. */
export const summaryOf = (
  state: SessionState,
  changedAtMs: number,
): Pick<
  SessionRow,
  | 'phase'
  | 'ticketRef'
  | 'technicianId'
  | 'technicianName'
  | 'purpose'
  | 'customerName'
  | 'behind'
  | 'deviceId'
  | 'hasGrants'
  | 'outcome'
  | 'minutes'
  | 'handoverTo'
  | 'present'
  | 'changedAt'
> => ({
  phase: state.phase.name,
  ticketRef: state.ticketRef ?? null,
  technicianId: state.technicianId ?? '',
  technicianName: state.technicianName ?? '',
  purpose: state.purpose ?? '',
  customerName: state.customerName ?? null,
  behind: state.behind,
  deviceId: state.deviceId ?? null,
  hasGrants: state.lastGrantNumber > 0,
  outcome: state.phase.name === 'logged' ? state.phase.outcome : null,
  minutes: minutesIn(state.phase, changedAtMs),
  handoverTo: state.handover?.stage === 'offered' ? state.handover.toTechnicianId : null,
  present: presentParticipants(state).length,
  changedAt: new Date(changedAtMs),
});
