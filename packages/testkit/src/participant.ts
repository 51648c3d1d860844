import type { Participant } from '@porch/core';
import type { ParticipantKeys } from '@porch/wire';

/** Somebody who is present in a session; without keys, their id stands for each of them. */
export function participantOf(
  id: string,
  seat: number,
  role: 'technician' | 'doorstep',
  { keys, name = 'Pim Aldersey' }: { readonly keys?: ParticipantKeys; readonly name?: string } = {},
): Participant {
  return {
    id,
    seat,
    role,
    technicianId: role === 'technician' ? id : undefined,
    signKey: keys?.signKey ?? id,
    agreeKey: keys?.agreeKey ?? id,
    startId: keys?.startId ?? id,
    pastStarts: [],
    proof: undefined,
    lastFact: 0,
    isReplaced: false,
    isGone: false,
    cannot: {},
    can: undefined,
    name,
  };
}
