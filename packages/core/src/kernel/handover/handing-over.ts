import type { KernelEvent } from '../events.ts';
import { isTakingOver, letInAs, presentOf, type KernelState, type Participant } from '../state.ts';

/** The customer's yes to the colleague completes an accepted handover: the first technician is out in the same breath. */
export function completedHandover(s: KernelState, technician: Participant, by: string): KernelEvent[] {
  const { handover } = s;
  if (!handover || !isTakingOver(s, technician.technicianId)) return [];
  return [
    {
      type: 'handedOver',
      by,
      handoverId: handover.id,
      fromParticipantId: handover.fromParticipantId,
      toParticipantId: technician.id,
    },
  ];
}

/** Who came in only to take over goes; who had been let in beside the lead stays as that. */
const goneAgain = (s: KernelState, colleague: Participant, by: string, reason: string): KernelEvent[] =>
  letInAs(s, colleague.technicianId ?? '')
    ? []
    : [{ type: 'participantLeft', by, participantId: colleague.id, reason }];

/** What falls with the answer to the colleague's ask: the handover goes back to who asked for it. */
export function failedHandover(s: KernelState, participantId: string, by: string): KernelEvent[] {
  const { handover } = s;
  const technician = s.participants[participantId];
  if (!handover || !technician || !isTakingOver(s, technician.technicianId)) return [];
  return [
    { type: 'handoverClosed', by, handoverId: handover.id, how: 'customer-said-no' },
    ...goneAgain(s, technician, by, 'the customer did not agree'),
  ];
}

/** Ends an open handover; a colleague who had come in already goes again. */
export function closeHandover(s: KernelState, by: string, how: 'declined' | 'lapsed' | 'taken-back'): KernelEvent[] {
  if (!s.handover) return [];
  const closed: KernelEvent = { type: 'handoverClosed', by, handoverId: s.handover.id, how };
  const colleague = presentOf(s, 'desk').find((p) => p.technicianId === s.handover?.toTechnicianId);
  return colleague ? [closed, ...goneAgain(s, colleague, by, 'the handover went back')] : [closed];
}
