import type { PermissionStanding } from '../../permission/permission-rules.ts';
import type { Evolvers } from '../evolvers.ts';
import { endAllPermissions, endPermission, setStanding, withoutAsk } from '../standings.ts';
import type { KernelState } from '../state.ts';
import type { consentEvents } from './events.ts';

export const consentEvolvers = {
  ownPictureOffered: (s, e) => ({ ...s, holderId: e.by }),
  permissionsAsked: (s, e) => {
    let next: KernelState = {
      ...s,
      asks: {
        ...s.asks,
        [e.askId]: {
          id: e.askId,
          participantId: e.participantId,
          permissions: e.permissions,
          expiresAtMs: e.expiresAtMs,
        },
      },
    };
    for (const permission of e.permissions)
      next = setStanding(next, e.participantId, permission, {
        name: 'waiting',
        askId: e.askId,
        expiresAtMs: e.expiresAtMs,
      });
    return next;
  },
  askClosed: (s, e, atMs) => {
    const ask = s.asks[e.askId];
    if (!ask) return s;
    let next = withoutAsk(s, e.askId);
    const ending: PermissionStanding =
      e.how === 'refused'
        ? { name: 'saidNo', atMs }
        : e.how === 'lapsed'
          ? { name: 'lapsed', atMs }
          : { name: 'notAsked' };
    for (const permission of ask.permissions) {
      const standing = next.standings[ask.participantId]?.[permission];
      if (standing?.name === 'waiting' && standing.askId === e.askId)
        next = {
          ...setStanding(next, ask.participantId, permission, ending),
          ...(e.how === 'refused'
            ? {
                noes: { ...next.noes, [permission]: (next.noes[permission] ?? 0) + 1 },
                lastNoMs: { ...next.lastNoMs, [permission]: atMs },
              }
            : {}),
        };
    }
    return next;
  },
  permissionGranted: (s, e) => {
    const granted = setStanding(s, e.participantId, e.permission, {
      name: 'allowed',
      grantNumber: e.grantNumber,
      endsAtMs: e.endsAtMs,
    });
    const ask = s.asks[e.askId];
    const isAnswered = ask?.permissions.every((p) => {
      const standing = granted.standings[ask.participantId]?.[p];
      return !(standing?.name === 'waiting' && standing.askId === ask.id);
    });
    return {
      ...(isAnswered ? withoutAsk(granted, e.askId) : granted),
      lastGrantNumber: Math.max(s.lastGrantNumber, e.grantNumber),
    };
  },
  permissionWithdrawn: (s, e, atMs) =>
    endPermission(s, e.participantId, e.permission, atMs, e.by === e.participantId ? 'over' : 'takenBack'),
  screenLost: (s, _e, atMs) => endAllPermissions(s, Object.keys(s.standings), atMs),
} satisfies Evolvers<typeof consentEvents>;
