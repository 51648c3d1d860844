import { permissionsThat, presentParticipants } from '@porch/core';
import { startOf } from '@porch/wire';
import type { Kit } from './kit.ts';
import type { Watcher } from './picture/screen-share.ts';

const showing = permissionsThat((rules) => rules.showsPicture);

/** Who looks now: those of the service's list whom a grant of ours lets look, in this very moment. */
export const watchersOf = ({ connection, held }: Pick<Kit, 'connection' | 'held'>): Watcher[] =>
  connection.viewers.flatMap(({ seat, displays }) => {
    const technician = presentParticipants(connection.state, 'technician').find((p) => p.seat === seat);
    const mayLook = technician && showing.some((permission) => held.may(permission, technician.signKey));
    return mayLook ? [{ seat, displays, start: startOf(technician) }] : [];
  });
