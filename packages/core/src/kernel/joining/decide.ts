import { refuse } from '../../decision.ts';
import type { Deciders } from '../decider.ts';
import type { KernelEvent } from '../events.ts';
import { isOver, isTakingOver, needsCallAnswer, presentAs, type KernelState, type Participant } from '../state.ts';
import type { Proof } from '../vocabulary.ts';
import type { joiningCommands } from './commands.ts';

/** What confirms who this participant is: their own proof, or that of the page which they were started from. */
function confirmedBy(s: KernelState, me: Participant): 'confirmed-by-ticket' | 'confirmed-by-directory' | undefined {
  const ofPage = presentAs(s, 'page').find((p) => p.proof === 'ticket' || p.proof === 'directory');
  const proof: Proof | undefined = me.proof === 'page' ? ofPage?.proof : me.proof;
  return proof === 'ticket' ? 'confirmed-by-ticket' : proof === 'directory' ? 'confirmed-by-directory' : undefined;
}

export const joiningDeciders = {
  introduceCustomer: (s, c, me) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    const shown = confirmedBy(s, me);
    return [
      {
        type: 'customerIntroduced',
        by: me.id,
        // Whoever says another name than the confirmed one is somebody else.
        identity: shown && (s.customerName ?? c.name) === c.name ? shown : 'said-so-themselves',
        ...(c.language ? { language: c.language } : {}),
        ...(c.computer ? { computer: c.computer } : {}),
        ...(c.isMinor === undefined ? {} : { isMinor: c.isMinor }),
        personal: { name: c.name, address: c.address },
      },
    ];
  },
  chooseAim: (s, c, me) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    return s.aim === c.aim ? [] : [{ type: 'aimChosen', by: me.id, aim: c.aim }];
  },
  answerChangeOver: (s, c, me) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    if (s.candidateId !== c.participantId) return refuse('NOT_PRESENT');
    return [{ type: 'changeOverAnswered', by: me.id, participantId: c.participantId, isYes: c.isYes }];
  },
  answerCall: (s, c, me) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    const answered: KernelEvent = { type: 'callAnswered', by: me.id, answer: c.answer };
    if (c.answer === 'i-called') return [answered];
    return [answered, { type: 'sessionEnded', by: me.id, reason: 'fraud', why: 'somebody called the customer' }];
  },
  acceptSession: (s, c, me) => {
    if (isOver(s)) return refuse('SESSION_ENDED');
    if (needsCallAnswer(s) || s.customerName === undefined) return refuse('ACCEPTANCE_MISSING');
    if (s.hasAccepted) return [];
    return [{ type: 'customerAccepted', by: me.id, noticeVersion: c.noticeVersion }];
  },
  beginVisit: (s, c, me) => {
    if (s.deviceId === undefined) return refuse('WRONG_ROLE');
    if (isOver(s)) return refuse('SESSION_ENDED');
    const technician = s.participants[c.participantId];
    if (technician?.side !== 'desk' || technician.isGone) return refuse('NOT_PRESENT');
    const began: KernelEvent = {
      type: 'visitBegan',
      by: me.id,
      participantId: technician.id,
      wasAsked: c.wasAsked,
    };
    // What a visitor may is what the customer accepted when they made the standing consent.
    return s.hasAccepted ? [began] : [began, { type: 'customerAccepted', by: me.id, noticeVersion: c.noticeVersion }];
  },
  leaveSession: (s, c, me) => {
    const left: KernelEvent = { type: 'participantLeft', by: me.id, participantId: me.id, reason: c.reason };
    if (s.handover && isTakingOver(s, me.technicianId))
      return [{ type: 'handoverClosed', by: me.id, handoverId: s.handover.id, how: 'declined' }, left];
    return [left];
  },
} satisfies Deciders<typeof joiningCommands>;
