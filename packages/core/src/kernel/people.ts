import { endAllPermissions, endHeldPermissions } from './standings.ts';
import { presentOf, type KernelState, type Participant } from './state.ts';
import { CHANGED_OVER, REPLACED, type Proof } from './vocabulary.ts';

export const withParticipant = (s: KernelState, id: string, change: Partial<Participant>): KernelState => {
  const known = s.participants[id];
  return known ? { ...s, participants: { ...s.participants, [id]: { ...known, ...change } } } : s;
};

export const isConfirmedBy = (proof: Proof | undefined) => proof === 'ticket' || proof === 'directory';

/** As confirmed as the least confirmed of those who are here for the customer; what their own page started is they. */
export function withIdentity(s: KernelState): KernelState {
  const here = presentOf(s, 'customer').filter((p) => p.proof !== 'page');
  if (!here.length) return s;
  if (here.some((p) => !isConfirmedBy(p.proof)))
    return s.identity === 'unknown' ? s : { ...s, identity: 'said-so-themselves' };
  const isAllDirectory = here.every((p) => p.proof === 'directory');
  return { ...s, identity: isAllDirectory ? 'confirmed-by-directory' : 'confirmed-by-ticket' };
}

/** What the page or a program before held was for its own picture only; what is still asked is asked anew. */
export const holderBeginsAnew = (s: KernelState, atMs: number): KernelState => endHeldPermissions(s, atMs);

export function leave(s: KernelState, participantId: string, atMs: number, reason = ''): KernelState {
  const leaver = s.participants[participantId];
  if (!leaver) return s;
  const isReplaced = leaver.isReplaced || reason === REPLACED || reason === CHANGED_OVER;
  let next: KernelState = {
    ...s,
    participants: { ...s.participants, [participantId]: { ...leaver, isGone: true, isReplaced } },
  };
  // Without its holder no grant of a picture source can be effective; a technician takes only their own along.
  next = endAllPermissions(next, s.holderId === participantId ? Object.keys(s.standings) : [participantId], atMs);
  const asks = Object.values(next.asks).filter(
    (a) => s.holderId !== participantId && a.participantId !== participantId,
  );
  next = { ...next, asks: Object.fromEntries(asks.map((a) => [a.id, a])) };
  return withIdentity({
    ...next,
    candidateId: next.candidateId === participantId ? undefined : next.candidateId,
    holderId: next.holderId === participantId ? undefined : next.holderId,
  });
}
