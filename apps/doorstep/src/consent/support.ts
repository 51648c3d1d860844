import { allPermissions, rulesOf, type OpenAsk, type Permission, type SessionState, type WhyNot } from '@porch/core';

/** What this release of Doorstep can do on a desktop it works on. */
const can = new Set<Permission>([
  'view-screen',
  'control-input',
  'give-files',
  'fetch-files',
  'work-alone',
  'keep-device',
]);

/** What it cannot, with the reason: told to the service when it joins, so that nobody asks in vain. */
export function cannotHere(canKeepDevice: boolean): Partial<Record<Permission, WhyNot>> {
  const reasonFor = (permission: Permission): WhyNot | undefined => {
    if (!can.has(permission)) return 'not-in-this-release';
    return permission === 'keep-device' && !canKeepDevice ? 'no-standing-consent-here' : undefined;
  };
  return Object.fromEntries(
    allPermissions.flatMap((permission) => {
      const why = reasonFor(permission);
      return why ? [[permission, why]] : [];
    }),
  );
}

/** Whether an ask keeps the catalogue's rules, whatever the service let through. A handover may list everything. */
export function mayBeAsked(ask: OpenAsk, state: SessionState): boolean {
  const isHandover = state.handover !== undefined;
  return ask.permissions.every(
    (permission) =>
      can.has(permission) && (!rulesOf(permission).isSensitive || ask.permissions.length === 1 || isHandover),
  );
}
