import {
  clearedAct,
  isEffective,
  isOver,
  RAISE_RISK,
  refuse,
  ruleOfLabel,
  type Policy,
  type PolicyFor,
  type SessionState,
} from '@porch/core';
import { AppError, leaveBytes, type RightsLeaveBody } from '@porch/wire';
import type { z } from 'zod';
import type { RightsKeys } from '../../auth/rights-keys.ts';
import type { Technician } from '../people/technician.ts';
import type { SessionBook } from '../sessions/session-book.ts';

type Asked = z.output<typeof RightsLeaveBody>;

export interface LeaveParts {
  readonly book: SessionBook;
  readonly policyFor: PolicyFor;
  readonly keys: RightsKeys;
}

/**
 * The desk's leave for administrator rights on one computer, for one technician of one session, once, and no longer than
 * the desk's rights last: signed, and in the ledger, where the customer's side takes it from. Throws NOT_ALLOWED_BY_DESK,
 * RIGHTS_OTHER_DESK, SECOND_YES_MISSING, NOT_GRANTED, NOT_PRESENT, SESSION_NOT_FOUND, SESSION_ENDED.
 */
export async function giveLeave(
  me: Technician,
  sessionId: string,
  asked: Asked,
  { book, policyFor, keys }: LeaveParts,
): Promise<{ raiseId: string; untilMs: number }> {
  const policy = policyFor(me.team);
  if (policy.rightsByDesk === 'never') throw new AppError('NOT_ALLOWED_BY_DESK');
  const { raiseId, participantId, deviceId, deskKey } = asked;
  const nowMs = Date.now();
  let untilMs = nowMs + policy.rightsMs;
  await book.act(sessionId, ({ state }) => {
    if (isOver(state)) return refuse('SESSION_ENDED');
    const known = state.slices['administrator-rights'][raiseId];
    // Asked again, because the answer was lost: it is the same leave.
    if (known) {
      untilMs = known.leave?.untilMs ?? untilMs;
      return known.byId === participantId && known.leave?.deviceId === deviceId ? [] : refuse('NOT_PRESENT');
    }
    const participant = state.participants[participantId];
    const holder = state.participants[state.holderId ?? ''];
    if (participant?.technicianId !== me.id || participant.isGone || !holder) return refuse('NOT_PRESENT');
    if (!isEffective(state.standings[participantId]?.['raise-rights'], nowMs)) return refuse('NOT_GRANTED');
    const act = { actId: raiseId, act: RAISE_RISK, byId: participantId };
    if (needsSecond(policy, state) && !clearedAct(state.slices['risky-acts'], act)) return refuse('SECOND_YES_MISSING');
    const statement = { raiseId, sessionId, deviceId, holderKey: holder.signKey, technicianKey: participant.signKey };
    const signature = keys.sign(deskKey, leaveBytes({ ...statement, untilMs }));
    if (signature === undefined) return refuse('RIGHTS_OTHER_DESK');
    return [
      {
        ...{ type: 'administrator-rights/leave', by: participantId, participantId, raiseId },
        ...{ deviceId, deskKey, untilMs, signature },
      },
    ];
  });
  return { raiseId, untilMs };
}

/** As the desk rules of rights, or of devices with this one's label. */
const needsSecond = (policy: Policy, { deviceLabel }: SessionState): boolean =>
  policy.rightsByDesk === 'second-person' || ruleOfLabel(policy.carefulLabels, deviceLabel) !== undefined;
