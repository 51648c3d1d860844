import type { Evolvers } from '../evolvers.ts';
import { leave, withParticipant } from '../people.ts';
import { withoutLetIn } from '../beside/evolve.ts';
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
    ...withParticipant(
      withoutLetIn(leave(s, e.fromParticipantId, atMs), s.handover?.toTechnicianId ?? ''),
      e.toParticipantId,
      { part: 'lead' },
    ),
    technicianId: s.handover?.toTechnicianId ?? s.technicianId,
    technicianName: s.participants[e.toParticipantId]?.name,
    handover: undefined,
  }),
} satisfies Evolvers<typeof handoverEvents>;
