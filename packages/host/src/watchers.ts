import type { Watcher } from '@porch/client';
import { presentOf, showingPermissions } from '@porch/core';
import { startOf } from '@porch/wire';
import type { Kit } from './kit.ts';

/** Whether a grant of ours lets this key look at anything, though it may be held up just now. */
export const isLooker = ({ held }: Pick<Kit, 'held'>, signKey: string): boolean =>
  showingPermissions.some((permission) => held.holds(permission, signKey));

/** Who looks now: those of the service's list whom a grant of ours lets look, in this very moment. */
export const watchersOf = ({ connection, held }: Pick<Kit, 'connection' | 'held'>): Watcher[] =>
  connection.viewers.flatMap(({ seat, displays }) => {
    const technician = presentOf(connection.state, 'desk').find((p) => p.seat === seat);
    const mayLook = technician && showingPermissions.some((permission) => held.may(permission, technician.signKey));
    return mayLook ? [{ seat, displays, start: startOf(technician) }] : [];
  });
