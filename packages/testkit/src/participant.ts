import type { Participant } from '@porch/core';
import type { ParticipantKeys } from '@porch/wire';

/** Somebody who is present in a session; without keys, their id stands for each of them. */
export function participantOf(
  id: string,
  seat: number,
  part: 'lead' | 'colleague' | 'page' | 'doorstep',
  { keys, name = 'Pim Aldersey' }: { readonly keys?: ParticipantKeys; readonly name?: string } = {},
): Participant {
  const side = part === 'lead' || part === 'colleague' ? 'desk' : 'customer';
  return {
    id,
    seat,
    side,
    part,
    technicianId: side === 'desk' ? id : undefined,
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
