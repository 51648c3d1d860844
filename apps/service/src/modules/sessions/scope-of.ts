import { isOver } from '@porch/core';
import type { Scope } from '../../module/changes.ts';
import type { Appended } from '../../module/open-session.ts';

/** What of the porch new entries of a session are about, and whose: a session stands on its lead's porch alone. */
export function scopeOf({ session, events }: Appended): Scope {
  const isBeginning = events.some(({ type }) => type === 'sessionPrepared');
  // Somebody else's porch loses or gets something.
  const goesOn = events.some(
    ({ type }) => type.startsWith('handover') || type === 'handedOver' || type === 'personErased',
  );
  // Who waits for a second yes waits no longer than the session.
  const hadCareful =
    session !== undefined && isOver(session.state) && Object.keys(session.state.slices['risky-acts']).length > 0;
  const isCareful = hadCareful || events.some(({ type }) => type.startsWith('risky-acts/'));
  const technicianId = session?.state.technicianId;
  return {
    parts: [
      'sessions',
      'handovers',
      'states',
      'outbox',
      ...(isCareful || goesOn ? (['careful-acts'] as const) : []),
      ...(isBeginning ? (['waiting', 'devices', 'bookings'] as const) : []),
    ],
    ...(technicianId === undefined || goesOn || isCareful ? {} : { technicianIds: [technicianId] }),
  };
}
