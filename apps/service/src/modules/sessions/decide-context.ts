import { draftsOf } from '../../module/drafts-of.ts';
import { draftBrief, mayAsk, permissionLevel, type DecideContext } from '@porch/core';
import { readGrant } from '@porch/wire';
import type { OpenSession } from '../../module/open-session.ts';
import type { Technicians } from '../people/technician.ts';
import type { PolicyOf } from './policy-of.ts';

export interface DecideContextParts {
  readonly policyOf: PolicyOf;
  readonly technicians: Technicians;
  /** How far an upgrade is. */
  level(): number;
}

/** What a decision about a session is made with: the desk's rules and people as they are at that moment. */
export const decideContext =
  ({ policyOf, technicians, level }: DecideContextParts) =>
  (session: OpenSession, nowMs: number): DecideContext => {
    const policy = policyOf(session.state, nowMs);
    return {
      sessionId: session.id,
      nowMs,
      policy,
      mayAsk: (technicianId, permission) => {
        const technician = technicianId === undefined ? undefined : technicians.get(technicianId);
        return technician !== undefined && mayAsk(policy.askLimits, technician, permission);
      },
      readGrant,
      isWritten: (permission) => permissionLevel(permission) <= level(),
      nameOf: (technicianId) => technicians.get(technicianId)?.name,
      brief: (remark) => draftBrief(session.entries, remark, draftsOf(policy)),
    };
  };
