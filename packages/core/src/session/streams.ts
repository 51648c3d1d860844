import { standingOf, type Participant } from '../kernel/state.ts';
import { partMay } from '../people/part.ts';
import { ownShowingPermissions, showingPermissions, type Permission } from '../permission/permission.ts';
import { isEffective } from '../permission/permission-rules.ts';
import type { SessionState } from './session-state.ts';

const holdsAny = (state: SessionState, permissions: readonly Permission[], id: string, nowMs: number): boolean =>
  permissions.some((permission) => isEffective(standingOf(state, id, permission), nowMs));

const showsTheirs = ({ holderId }: SessionState, { id, part }: Participant): boolean =>
  holderId === id && partMay(part, 'show a picture');
const showsOwn = (state: SessionState, { id, part }: Participant, nowMs: number): boolean =>
  partMay(part, 'show their own screen') && holdsAny(state, ownShowingPermissions, id, nowMs);

/** Whether what somebody shows is passed on in this moment, to whoever may look at it. */
export function mayShow(state: SessionState, senderId: string, nowMs: number): boolean {
  const sender = state.participants[senderId];
  return !!sender && (showsTheirs(state, sender) || showsOwn(state, sender, nowMs));
}

/**
 * Whether somebody may see what another one shows, in this moment. The consent holder's picture goes to everybody who holds
 * a permission that shows it; what a technician shows of their own goes to the consent holder, who let them.
 */
export function mayWatch(state: SessionState, viewerId: string, senderId: string, nowMs: number): boolean {
  const [viewer, sender] = [state.participants[viewerId], state.participants[senderId]];
  if (!viewer || !sender || viewer === sender || !partMay(viewer.part, 'watch a picture')) return false;
  if (showsTheirs(state, sender)) return holdsAny(state, showingPermissions, viewerId, nowMs);
  return state.holderId === viewerId && showsOwn(state, sender, nowMs);
}
