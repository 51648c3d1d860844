import type { Permission } from '@porch/core';
import { abilityOf, allPermissions, type WhyNot } from '@porch/core';
import type { HostAbility } from '../kit.ts';
import type { HostPorts } from '../ports/host-ports.ts';
import { checkWords } from './check-words.ts';
import { files } from './files.ts';
import { input } from './input.ts';
import { picture } from './picture/picture.ts';
import { presence } from './presence.ts';
import { screenshot } from './screenshot.ts';
import { standing } from './standing/standing.ts';

/** What a host can do, in the order in which the bar is put together. */
export const hostAbilities: readonly HostAbility[] = [
  standing,
  picture,
  input,
  presence,
  files,
  checkWords,
  screenshot,
];

const byName = new Map(hostAbilities.map((ability) => [ability.name, ability]));
export const hostAbilityOf = (permission: Permission): HostAbility | undefined =>
  byName.get(abilityOf.get(permission) ?? '');

/** What this host cannot do, with the reason: told to the service when it joins, so that nobody asks in vain. */
export const cannotWith = (ports: HostPorts): Partial<Record<Permission, WhyNot>> =>
  Object.fromEntries(
    allPermissions.flatMap((permission) => {
      const ability = hostAbilityOf(permission);
      const why = ability ? ability.whyNot(permission, ports) : 'not-in-this-release';
      return why ? [[permission, why]] : [];
    }),
  );
