import { standingOf } from '../kernel/state.ts';
import { partMay } from '../people/part.ts';
import { showingPermissions } from '../permission/permission.ts';
import { isEffective } from '../permission/permission-rules.ts';
import type { SessionState } from './session-state.ts';

/**
 * Whether somebody may see what another one shows, in this moment. A picture goes to everybody who holds a permission that
 * shows it, whatever their side; and what is shown is the consent holder's.
 */
export function mayWatch(state: SessionState, viewerId: string, senderId: string, nowMs: number): boolean {
  const [viewer, sender] = [state.participants[viewerId], state.participants[senderId]];
  if (!viewer || !sender || viewer === sender || state.holderId !== senderId) return false;
  if (!partMay(viewer.part, 'watch a picture') || !partMay(sender.part, 'show a picture')) return false;
  return showingPermissions.some((permission) => isEffective(standingOf(state, viewerId, permission), nowMs));
}
