import type { Evolvers } from '../evolvers.ts';
import { leave } from '../people.ts';
import type { handoverEvents } from './events.ts';

export const handoverEvolvers = {
  handoverRequested: (s, e) => ({
    ...s,
    handover: {
      id: e.handoverId,
      fromParticipantId: e.by,
      toTechnicianId: e.toTechnicianId,
      stage: 'offered',
      answerByMs: e.answerByMs,
    },
  }),
  handoverAccepted: (s) => (s.handover ? { ...s, handover: { ...s.handover, stage: 'accepted' } } : s),
  handoverClosed: (s) => ({ ...s, handover: undefined }),
  handedOver: (s, e, atMs) => ({
    ...leave({ ...s, leadId: e.toParticipantId }, e.fromParticipantId, atMs),
    leadId: e.toParticipantId,
    technicianId: s.handover?.toTechnicianId ?? s.technicianId,
    technicianName: s.participants[e.toParticipantId]?.name,
    handover: undefined,
  }),
} satisfies Evolvers<typeof handoverEvents>;
