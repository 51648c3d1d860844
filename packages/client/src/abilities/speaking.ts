import { consentHolderOf, isEffective, presentOf, standingOf, type Participant } from '@porch/core';
import type { LiveConnection } from '../live/live-connection.ts';
import { Talk } from '../sound/talk.ts';
import type { VoicePort } from '../sound/sound-ports.ts';

/** The technician's side of speaking together: with the customer, and with others of the desk who may. */
export function technicianTalk(connection: LiveConnection, port: VoicePort): Talk {
  const may = (participantId: string) =>
    isEffective(standingOf(connection.state, participantId, 'speak-together'), connection.serviceNowMs);
  return new Talk(connection, port, {
    others(): Participant[] {
      const { state, participantId } = connection;
      const holder = consentHolderOf(state);
      if (!holder || !may(participantId)) return [];
      return [holder, ...presentOf(state, 'desk').filter(({ id }) => id !== participantId && may(id))];
    },
  });
}
