import { allPermissions, rulesOf, type Permission, type WhyNot } from '../../permission/permission.ts';
import type { Evolvers } from '../evolvers.ts';
import type { KernelEventOf } from '../events.ts';
import { holderBeginsAnew, isConfirmedBy, leave, withIdentity, withParticipant } from '../people.ts';
import { consentHolderOf, leadOf, partOfTechnician, type KernelState, type Participant } from '../state.ts';
import { DeskPart, UNKNOWN_PART, type AnyPart } from '../../people/part.ts';
import { CHANGED_OVER } from '../vocabulary.ts';
import type { joiningEvents } from './events.ts';

/** What a Doorstep that says nothing of itself can do: the first release said nothing. */
const firstReleaseCannot: Readonly<Partial<Record<Permission, WhyNot>>> = Object.fromEntries(
  allPermissions
    .filter((permission) => !rulesOf(permission).wasInFirstRelease)
    .map((permission) => [permission, 'not-in-this-release' as const]),
);

/** What a newcomer is: as they were let in, or, in a ledger that does not say, as their program's kind tells. */
function partOf(s: KernelState, e: KernelEventOf<'participantJoined'>): AnyPart {
  if (e.role !== 'technician') return e.role === 'doorstep' ? 'doorstep' : 'page';
  const said = DeskPart.safeParse(e.part ?? partOfTechnician(s, e.technicianId ?? '') ?? 'colleague');
  if (!said.success) return UNKNOWN_PART;
  const part = said.data;
  // Two never lead.
  return part === 'lead' && leadOf(s) ? 'colleague' : part;
}

export const joiningEvolvers = {
  participantJoined: (s, e, atMs) => {
    const participant: Participant = {
      id: e.participantId,
      seat: e.seat,
      side: e.role === 'technician' ? 'desk' : 'customer',
      part: partOf(s, e),
      technicianId: e.technicianId,
      signKey: e.signKey,
      agreeKey: e.agreeKey,
      startId: e.startId ?? '',
      pastStarts: [],
      // Only the requester reads the ticket, so whoever comes by a link from there is them.
      proof: e.proof ?? (e.way === 'ticket-link' ? 'ticket' : undefined),
      lastFact: 0,
      isReplaced: false,
      isGone: false,
      cannot: e.cannot ?? (e.role === 'doorstep' && !e.can ? firstReleaseCannot : {}),
      can: e.can,
      name: e.personal?.name,
    };
    // A Doorstep takes a page's place, but not another Doorstep's: that is the technician's to say.
    const isHolder = e.role === 'doorstep' && consentHolderOf(s)?.part !== 'doorstep';
    const before = isHolder && s.holderId !== undefined ? holderBeginsAnew(s, atMs) : s;
    const joined: KernelState = {
      ...before,
      participants: { ...s.participants, [e.participantId]: participant },
      holderId: isHolder ? e.participantId : s.holderId,
      phase: e.role !== 'technician' && s.phase.name === 'prepared' ? { name: 'joining' } : s.phase,
    };
    return e.role === 'technician' ? joined : withIdentity(joined);
  },
  programStarted: (s, e, atMs) => {
    const known = s.participants[e.participantId];
    if (!known) return s;
    // A holder that started again holds nothing: what it had signed for was in its memory.
    const before = s.holderId === e.participantId ? holderBeginsAnew(s, atMs) : s;
    return withParticipant(before, e.participantId, {
      startId: e.startId,
      pastStarts: [...known.pastStarts, known.startId],
    });
  },
  changeOverWanted: (s, e) => ({ ...s, candidateId: e.participantId }),
  changeOverAnswered: (s, e, atMs) => {
    const answered: KernelState = { ...s, candidateId: undefined };
    if (!e.isYes) return leave(answered, e.participantId, atMs);
    const before = s.holderId ? leave(answered, s.holderId, atMs, CHANGED_OVER) : answered;
    return { ...holderBeginsAnew(before, atMs), holderId: e.participantId };
  },
  participantLeft: (s, e, atMs) => leave(s, e.participantId, atMs, e.reason),
  customerIntroduced: (s, e) =>
    withIdentity({
      // Whoever says another name than the confirmed one has confirmed nothing.
      ...(e.identity === 'said-so-themselves' && isConfirmedBy(s.participants[e.by]?.proof)
        ? withParticipant(s, e.by, { proof: undefined })
        : s),
      identity: e.identity,
      language: e.language ?? s.language,
      computer: e.computer ?? s.computer,
      isMinor: e.isMinor ?? s.isMinor,
      customerName: e.personal?.name,
      customerAddress: e.personal?.address,
    }),
  aimChosen: (s, e) => ({ ...s, aim: e.aim }),
  callAnswered: (s, e) => ({ ...s, callAnswer: e.answer }),
  customerAccepted: (s, _e, atMs) => ({
    ...s,
    hasAccepted: true,
    phase: s.phase.name === 'joining' ? { name: 'live', sinceMs: atMs } : s.phase,
  }),
  // The second secret is bound to both programs' keys: it shows what the words would.
  visitBegan: (s, e) => ({ ...s, provenIds: [...s.provenIds, e.participantId] }),
} satisfies Evolvers<typeof joiningEvents>;
