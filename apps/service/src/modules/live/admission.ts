import {
  consentHolderOf,
  isOver,
  partOfTechnician,
  presentParticipants,
  refuse,
  REPLACED,
  type Decision,
  type RefusalCode,
  type SessionEvent,
  type SessionState,
} from '@porch/core';
import { AppError, type ClientMessage } from '@porch/wire';
import { bytesToHex } from '@noble/hashes/utils.js';
import type { OpenSession } from '../../module/open-session.ts';
import type { Bearer } from './connection-passes.ts';

export type Hello = Extract<ClientMessage, { type: 'hello' }>;

/** A session is a handful of people, each with a program or two. */
const MAX_PARTICIPANTS = 16;

/** Whose keys these are, in this session. */
export const withKeys = (state: SessionState, hello: Hello) =>
  Object.values(state.participants).find((p) => p.signKey === hello.signKey && p.agreeKey === hello.agreeKey);

function fits(state: SessionState, participantId: string, bearer: Bearer): boolean {
  const p = state.participants[participantId];
  return bearer.kind === 'technician' ? p?.technicianId === bearer.technicianId : p?.part === bearer.part;
}

/** Somebody who resumes must know the same history as we do; otherwise one of the two was rewritten. */
export function checkHead(session: OpenSession, hello: Hello): void {
  if (hello.lastSeq === 0) return;
  const row = session.rows[hello.lastSeq - 1];
  if (!row || bytesToHex(row.hash) !== hello.lastHash) throw new AppError('OUT_OF_ORDER');
}

export interface Admission {
  readonly participantId: string | undefined;
  readonly events: Decision<SessionEvent>;
}
const notIn = (code: RefusalCode): Admission => ({ participantId: undefined, events: refuse(code) });

/** Whether they may come in, and what happens by it. Who proved a participant's keys is that participant. */
export function admission(state: SessionState, bearer: Bearer, hello: Hello, newId: () => string): Admission {
  const known = withKeys(state, hello);
  if (!known) return joining(state, bearer, hello, newId());
  if (known.isReplaced) return notIn('REPLACED');
  // A technician who is out stays out. The customer's side comes back to deliver what it decided meanwhile.
  const mayResume = fits(state, known.id, bearer) && (!known.isGone || known.part === 'doorstep');
  if (!mayResume || known.pastStarts.includes(hello.startId)) return notIn('NOT_PRESENT');
  const started: SessionEvent[] =
    known.startId === hello.startId || known.isGone
      ? []
      : [{ type: 'programStarted', by: known.id, participantId: known.id, startId: hello.startId }];
  return { participantId: known.id, events: started };
}

function joining(state: SessionState, bearer: Bearer, hello: Hello, participantId: string): Admission {
  if (presentParticipants(state).length >= MAX_PARTICIPANTS) return notIn('SESSION_FULL');
  const isKeyTaken = Object.values(state.participants).some(
    (p) => p.signKey === hello.signKey || p.agreeKey === hello.agreeKey,
  );
  if (isKeyTaken) return notIn('NOT_PRESENT');
  const part = bearer.kind === 'technician' ? partOfTechnician(state, bearer.technicianId) : bearer.part;
  if (!part) return notIn('NOT_PRESENT');
  if (isOver(state) && part === 'doorstep') return notIn('SESSION_ENDED');
  const holder = consentHolderOf(state);
  // Of two Doorsteps the technician says which one it is to be; until then the one that is there stays.
  const isCandidate = part === 'doorstep' && holder?.part === 'doorstep';
  // The same person with a program that started again, or from somewhere else: the newer one counts.
  const older = presentParticipants(state).filter((p) =>
    bearer.kind === 'technician'
      ? p.technicianId === bearer.technicianId
      : p.part === bearer.part && p.id !== (isCandidate ? holder.id : undefined),
  );
  const seats = Object.values(state.participants).map((p) => p.seat);
  const events: SessionEvent[] = older.map((p) => ({
    type: 'participantLeft',
    by: 'service',
    participantId: p.id,
    reason: REPLACED,
  }));
  events.push({
    type: 'participantJoined',
    by: participantId,
    participantId,
    seat: Math.max(0, ...seats) + 1,
    role: bearer.kind === 'technician' ? 'technician' : part === 'doorstep' ? 'doorstep' : 'customer-page',
    part,
    ...(bearer.kind === 'technician' ? { technicianId: bearer.technicianId } : {}),
    signKey: hello.signKey,
    agreeKey: hello.agreeKey,
    startId: hello.startId,
    ...(bearer.kind === 'customer' && bearer.proof ? { proof: bearer.proof } : {}),
    way: bearer.kind === 'technician' ? 'sign-in' : bearer.way,
    ...(hello.cannot === undefined ? {} : { cannot: hello.cannot }),
    ...(hello.can === undefined ? {} : { can: hello.can }),
    ...(hello.abilities === undefined ? {} : { abilities: hello.abilities }),
    personal: {
      // Who the customer is stands where not everybody reads it.
      name: bearer.kind === 'technician' ? bearer.name : 'The customer',
      ...(hello.computer === undefined ? {} : { computer: hello.computer }),
    },
  });
  if (isCandidate) events.push({ type: 'changeOverWanted', by: participantId, participantId });
  return { participantId, events };
}
