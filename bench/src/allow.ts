import type { LiveConnection } from '@porch/client';
import type { Permission } from '@porch/core';
import { until } from './bench-house.ts';

/** Asks for one permission, and waits until the customer has allowed it. */
export async function allow(
  technician: LiveConnection,
  permission: Permission,
  agree: () => Promise<unknown>,
  forMs?: number,
): Promise<void> {
  await technician.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: [permission] });
  await agree();
  const standing = () => technician.state.standings[technician.participantId]?.[permission]?.name;
  await until(permission, () => standing() === 'allowed', forMs);
}
