import { isEffective, standingOf, type AnyPart, type SessionState, type Side } from '@porch/core';
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

interface End {
  readonly participantId: string;
  readonly side: Side;
}

/** Whether a message of this channel may go from one end to the other. */
export function mayPassBetween<E extends End>(
  channel: SealedChannel,
  passage: {
    readonly from: E;
    readonly to: E;
    readonly state: SessionState;
    readonly nowMs: number;
    partOf(end: E): AnyPart | undefined;
  },
): boolean {
  const { from, to, state, nowMs, partOf } = passage;
  const may = (way: keyof SealedChannel['needs'], { participantId }: E) =>
    mayPass(channel, way, state, participantId, nowMs);
  if (from.side === to.side)
    // Nobody of the desk hears another one whom the customer does not let speak.
    return channel.isAmongDesk === true && from.side === 'desk' && may('toCustomer', from) && may('toDesk', to);
  const [technician, customer] = from.side === 'desk' ? [from, to] : [to, from];
  if (channel.isForDoorstep && partOf(customer) !== 'doorstep') return false;
  return may(from === technician ? 'toCustomer' : 'toDesk', technician);
}
