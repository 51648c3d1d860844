import type { KernelEvent } from '../events.ts';
import { presentParticipants, type KernelState, type Participant } from '../state.ts';

/** The customer's yes to the colleague completes an accepted handover: the first technician is out in the same breath. */
export function completedHandover(s: KernelState, technician: Participant, by: string): KernelEvent[] {
  const handover = s.handover;
  if (handover?.stage !== 'accepted' || technician.technicianId !== handover.toTechnicianId) return [];
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

/** What falls with the answer to the colleague's ask: the handover goes back to who asked for it. */
export function failedHandover(s: KernelState, participantId: string, by: string): KernelEvent[] {
  const handover = s.handover;
  const technician = s.participants[participantId];
  if (handover?.stage !== 'accepted' || technician?.technicianId !== handover.toTechnicianId) return [];
  return [
    { type: 'handoverClosed', by, handoverId: handover.id, how: 'customer-said-no' },
    { type: 'participantLeft', by, participantId, reason: 'the customer did not agree' },
  ];
}

/** Ends an open handover; a colleague who had come in already goes again. */
export function closeHandover(s: KernelState, by: string, how: 'declined' | 'lapsed' | 'taken-back'): KernelEvent[] {
  if (!s.handover) return [];
  const closed: KernelEvent = { type: 'handoverClosed', by, handoverId: s.handover.id, how };
  const colleague = presentParticipants(s, 'technician').find((p) => p.technicianId === s.handover?.toTechnicianId);
  return colleague
    ? [closed, { type: 'participantLeft', by, participantId: colleague.id, reason: 'the handover went back' }]
    : [closed];
}
