import { isEffective, standingOf, type SessionState } from '@porch/core';
import type { SealedChannel } from '@porch/wire';

/** Whether a message of this channel may pass: what the channel needs is looked up in its own line of the list. */
export function mayPass(
  { needs, isForTheDoor }: SealedChannel,
  way: keyof SealedChannel['needs'],
  state: SessionState,
  technicianId: string,
  nowMs: number,
): boolean {
  // At the door of a device the second secret is proven before anything is allowed.
  if (isForTheDoor && state.deviceId !== undefined && !state.hasAccepted) return true;
  const needed = needs[way];
  return !needed.length || needed.some((permission) => isEffective(standingOf(state, technicianId, permission), nowMs));
}
