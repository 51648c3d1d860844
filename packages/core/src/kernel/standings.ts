import { dependants, type Permission } from '../permission/permission.ts';
import type { PermissionStanding } from '../permission/permission-rules.ts';
import type { KernelState } from './state.ts';

export const setStanding = (
  s: KernelState,
  participantId: string,
  permission: Permission,
  standing: PermissionStanding,
) => ({
  ...s,
  standings: { ...s.standings, [participantId]: { ...s.standings[participantId], [permission]: standing } },
});

export function withoutAsk(s: KernelState, askId: string): KernelState {
  const { [askId]: _closed, ...asks } = s.asks;
  return { ...s, asks };
}

/**
 * Ends a permission, and whatever needs it, for one participant. Taken back is what the customer took back; what a
 * technician gave back, or what ended with something else, is over.
 */
export function endPermission(
  s: KernelState,
  participantId: string,
  permission: Permission,
  atMs: number,
  name: 'takenBack' | 'over' = 'over',
): KernelState {
  let next = setStanding(s, participantId, permission, { name, atMs });
  for (const other of dependants(permission)) {
    const standing = next.standings[participantId]?.[other];
    if (standing?.name === 'allowed' || standing?.name === 'waiting')
      next = endPermission(next, participantId, other, atMs, name);
  }
  return next;
}

export function endAllPermissions(s: KernelState, participantIds: readonly string[], atMs: number): KernelState {
  let next = s;
  for (const id of participantIds)
    for (const [permission, standing] of Object.entries(s.standings[id] ?? {}))
      if (standing.name === 'allowed' || standing.name === 'waiting')
        next = endPermission(next, id, permission as Permission, atMs);
  return next;
}

/** Takes back what is allowed, and leaves what is only asked. */
export function endHeldPermissions(s: KernelState, atMs: number): KernelState {
  let next = s;
  for (const [id, standings] of Object.entries(s.standings))
    for (const [permission, standing] of Object.entries(standings))
      if (standing.name === 'allowed') next = endPermission(next, id, permission as Permission, atMs);
  return next;
}
