import type { Policy, PolicyFor, SessionState } from '@porch/core';
import type { Technicians } from '../people/technician.ts';

/** The rules for a session: those of whoever leads it. */
export type PolicyOf = (session: Pick<SessionState, 'technicianId'>, atMs?: number) => Policy;

export const policyOfSessions =
  (policyFor: PolicyFor, technicians: Technicians): PolicyOf =>
  ({ technicianId }, atMs) =>
    policyFor(technicians.get(technicianId ?? '')?.team, atMs);
