import { abilityOf, allPermissions, type Permission, type WhyNot } from '@porch/core';
import type { HostAbility } from './kit.ts';
import type { HostPorts } from './ports/host-ports.ts';

export const hostAbilityOf = (permission: Permission, abilities: readonly HostAbility[]): HostAbility | undefined =>
  abilities.find(({ name }) => name === abilityOf.get(permission));

/** What a host cannot do, with the reason: told to the service when it joins, so that nobody asks in vain. */
export const cannotWith = (abilities: readonly HostAbility[], ports: HostPorts): Partial<Record<Permission, WhyNot>> =>
  Object.fromEntries(
    allPermissions.flatMap((permission) => {
      const ability = hostAbilityOf(permission, abilities);
      const why = ability ? ability.whyNot(permission, ports) : 'not-in-this-release';
      return why ? [[permission, why]] : [];
    }),
  );
